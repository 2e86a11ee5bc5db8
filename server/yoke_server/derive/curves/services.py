"""Runs laid over each other: their instants, the statistics of a window, and named pages."""

from collections.abc import Iterator
from dataclasses import dataclass
from math import isfinite
from typing import TYPE_CHECKING

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.derive.curves.page import CurvesSpec
from yoke_server.derive.curves.schemas import (
    AlignedOut,
    CurvePageOut,
    OverRuns,
    WindowOut,
    WindowRow,
)
from yoke_server.derive.inputs import setup_of, times_with
from yoke_server.derive.models import CurvePage
from yoke_server.kinds.alignments.base import Alignment
from yoke_server.ledger.services import record
from yoke_server.record.models import Run
from yoke_server.record.readings.definitions import readings_of
from yoke_server.record.readings.stored import complete_readings
from yoke_server.setups.models import Project
from yoke_server.setups.readable import readable_channels

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Array = NDArray[np.float64]

PIECE = 1 << 18  # samples that are read at once
MAX_SAMPLES = 1 << 24  # that are looked through of a run while somebody waits
MAX_PAGES = 50  # of a project


@dataclass(frozen=True, slots=True)
class RunByName:
    """A run as alignments ask for it: its channels by their names."""

    run: Run

    def key_of(self, name: str) -> str:
        """Raises `SummaryError` for a channel that the run does not have."""
        from yoke_core.errors import SummaryError

        found = next((c for c in readable_channels(setup_of(self.run)) if c.name == name), None)
        if found is None:
            raise SummaryError("channel", f"It has no channel {name}.", "Choose another channel.")
        return found.key

    def pieces(self, name: str) -> "Iterator[tuple[Array, Array]]":
        return self.part(name, None)

    def part(
        self, name: str, window: tuple[float, float] | None
    ) -> "Iterator[tuple[Array, Array]]":
        """Seconds of the run and readings of a channel, within ``window`` or of all of it."""
        import numpy as np
        from yoke_core.errors import SummaryError

        key = self.key_of(name)
        found, times = complete_readings(readings_of(self.run), key), times_with(self.run, key)
        first, last = 0, times.samples
        if window is not None:
            first, last = times.place_of(window[0]), min(last, times.place_of(window[1]) + 1)
        if last - first > MAX_SAMPLES:
            text = f"{last - first} samples are too many to look through at once."
            hint = "Choose a shorter window, or a result Statistics, which is made beside."
            raise SummaryError("window", text, hint)
        for begin in range(first, last, PIECE):
            end = min(last, begin + PIECE)
            seconds, values = times.seconds_of(np.arange(begin, end)), found.read(begin, end)
            if window is not None:
                inside = (seconds >= window[0]) & (seconds <= window[1])
                seconds, values = seconds[inside], values[inside]
            yield seconds, values

    def markers(self) -> list[tuple[float, str]]:
        start, rows = self.run.start_ns, self.run.markers.order_by("at_ns")
        return [((at - start) * 1e-9, text) for at, text in rows.values_list("at_ns", "text")]


def _runs(ids: list[int]) -> list[Run]:
    """In the order asked for; a 404 where one is not there."""
    rows = Run.objects.select_related("revision", "setup").prefetch_related("corrections")
    found = {run.pk: run for run in rows.filter(pk__in=ids)}
    if missing := next((pk for pk in ids if pk not in found), None):
        raise Run.DoesNotExist(f"There is no run {missing}.")
    return [found[pk] for pk in ids]


def aligned(run_ids: list[int], alignment: Alignment) -> list[AlignedOut]:
    """When of each run its instant is, or why it has none."""
    from yoke_core.errors import SummaryError

    out = []
    for run in _runs(run_ids):
        try:
            out.append(AlignedOut(run=run.pk, at_s=alignment.instant(RunByName(run))))
        except SummaryError as error:
            out.append(AlignedOut(run=run.pk, problem=f"{error} {error.hint}".strip()))
        except Problem as problem:
            out.append(AlignedOut(run=run.pk, problem=problem.title))
    return out


def window_rows(windows: dict[int, tuple[float, float]], channel: str) -> list[WindowRow]:
    """Statistics of a channel of each run between two times of that run."""
    from yoke_core.errors import SummaryError

    out = []
    for run in _runs(list(windows)):
        try:
            out.append(_window_row(run, channel, windows[run.pk]))
        except SummaryError as error:
            out.append(WindowRow(run=run.pk, problem=f"{error} {error.hint}".strip()))
        except Problem as problem:
            out.append(WindowRow(run=run.pk, problem=problem.title))
    return out


FIGURES = ("lowest", "highest", "mean", "rms", "deviation", "slope")


def over_runs(rows: list[WindowRow], left_out: set[int]) -> WindowOut:
    """The rows, and each figure over the runs that count."""
    from yoke_core.statistics import series

    counted = [row for row in rows if not row.problem and row.run not in left_out]
    found = {name: series([getattr(row, name) for row in counted]) for name in FIGURES}
    over = [
        OverRuns(figure=name, mean=one.mean, deviation=one.deviation)
        for name, one in found.items()
        if one is not None
    ]
    return WindowOut(rows=rows, counted=len(counted), over=over)


def _window_row(run: Run, channel: str, window: tuple[float, float]) -> WindowRow:
    from yoke_core.errors import SummaryError
    from yoke_core.summary.stretch import StretchStatistics

    by_name = RunByName(run)
    times = times_with(run, by_name.key_of(channel))
    ends = times.segments[0].start_s, times.segments[-1].end_s
    if window[1] < ends[0] or window[0] > ends[1]:
        text = f"The window lies outside the run, which lasts to {ends[1]:.3f} s."
        raise SummaryError("window", text)
    found = StretchStatistics(1 / times.segments[0].rate_hz)
    for seconds, values in by_name.part(channel, window):
        found.push(seconds, values)
    got = found.finish()
    slope = got.slope if got.slope is not None and isfinite(got.slope) else None
    return WindowRow(
        run=run.pk,
        count=got.count,
        left_out=got.left_out,
        lowest=got.lowest,
        highest=got.highest,
        mean=got.mean,
        rms=got.rms,
        deviation=got.deviation,
        slope=slope,
    )


# Named pages


def curve_pages(project_id: int) -> list[CurvePageOut]:
    """By name."""
    Project.objects.only("pk").get(pk=project_id)
    rows = CurvePage.objects.filter(project_id=project_id).order_by("name")
    return [CurvePageOut.model_validate(row) for row in rows]


@transaction.atomic
def keep_page(actor: Actor, project_id: int, name: str, page: CurvesSpec) -> CurvePageOut:
    """Keep a page under a name; one of that name is replaced."""
    require(actor, "write reports")
    project = Project.objects.select_for_update().get(pk=project_id)
    _runs([drawn.run for drawn in page.runs])
    known = CurvePage.objects.filter(project=project, name=name).exists()
    if not known and CurvePage.objects.filter(project=project).count() >= MAX_PAGES:
        raise Problem(
            409,
            f"{project.name} has {MAX_PAGES} pages of curves already.",
            code=ProblemType.LIMIT_REACHED,
            hint="Take one away first.",
        )
    row, _ = CurvePage.objects.update_or_create(
        project=project, name=name, defaults={"page": page, "actor": actor.user}
    )
    record(actor, f"Kept the page of curves {name} with {project.name}")
    return CurvePageOut.model_validate(row)


@transaction.atomic
def remove_page(actor: Actor, page_id: int) -> None:
    require(actor, "write reports")
    row = CurvePage.objects.select_related("project").get(pk=page_id)
    row.delete()
    record(actor, f"Took the page of curves {row.name} of {row.project.name} away")
