"""A table of the faults that tests inject: how the run ended, and what was lost of it."""

from collections.abc import Callable, Iterator
from typing import Any

import pytest

ROW = "fault"
HEAD = ("fault", "run", "samples", "blocks lost")

Tell = Callable[[Any], None]


@pytest.fixture
def told(record_property, request) -> Tell:
    """Called with the run, once it has ended; the fault is what the test's name says."""

    def tell(run: Any) -> None:
        streams = list(run.streams.prefetch_related("segments"))
        lost = sum(p.missing_blocks for s in streams for p in s.segments.all())
        name = request.node.name.removeprefix("test_").partition("[")[0].replace("_", " ")
        state = str(getattr(run, "state", ""))
        record_property(ROW, [name, state, sum(s.samples for s in streams), lost])

    return tell


def rows_of(reports: list[Any]) -> Iterator[list[Any]]:
    for report in reports:
        for name, value in report.user_properties:
            if name == ROW:
                yield value


def table_of(rows: list[list[Any]]) -> list[str]:
    """Its lines; columns are as wide as they must be."""
    cells = [HEAD, *(tuple(str(c) for c in row) for row in sorted(rows))]
    widths = [max(len(row[i]) for row in cells) for i in range(len(HEAD))]
    return ["  ".join(c.ljust(w) for c, w in zip(row, widths, strict=True)) for row in cells]
