"""Samples of a channel within a stretch of a run."""

from collections.abc import Iterator
from typing import TYPE_CHECKING

from yoke_server.derive.inputs import in_pieces, times_with
from yoke_server.kinds.stretches.base import RunStretch
from yoke_server.record.models import Run

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Array = NDArray[np.float64]


def timed_pieces(run: Run, key: str) -> "Iterator[tuple[Array, Array]]":
    """Seconds of the run and readings in SI of a channel, piece by piece."""
    import numpy as np

    times = times_with(run, key)
    for first, (values,) in in_pieces(run, [key]):
        yield times.seconds_of(np.arange(first, first + values.size)), values


def within(run: Run, key: str, stretch: RunStretch) -> "Iterator[tuple[Array, Array]]":
    """The same of a stretch alone; raises `SummaryError` where the run has no such stretch, or
    it holds no samples."""
    from yoke_core.errors import SummaryError

    begin, end = stretch.bounds(lambda lead: timed_pieces(run, lead))
    empty = True
    for seconds, values in timed_pieces(run, key):
        inside = (seconds >= begin) & (seconds <= end)
        if inside.any():
            empty = False
            yield seconds[inside], values[inside]
    if empty:
        text = "The run has no samples in this stretch."
        raise SummaryError("stretch", text, "Choose times within the run.")
