"""Readings of a run as kinds of results take them: in SI, as corrected, also computed ones."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from types import MappingProxyType
from typing import TYPE_CHECKING

from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.record.models import Run
from yoke_server.record.queries import StreamTimes
from yoke_server.record.readings.definitions import readings_of, setup_of
from yoke_server.record.readings.stored import complete_readings, rows_of
from yoke_server.setups.document import FrozenSetup
from yoke_server.setups.readable import ReadableChannel, by_key, readable_channels

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Array = NDArray[np.float64]

__all__ = ["channel_of", "clipped_note", "in_pieces", "setup_of", "times_with", "whole"]


def channel_of(setup: FrozenSetup, key: str) -> ReadableChannel:
    """The channel with a key; raises a 409 problem if the setup of that time had none."""
    found = by_key(readable_channels(setup), key)
    if found is None:
        raise Problem(
            409,
            "This run has not all channels that the recipe names.",
            code=ProblemType.NO_RESULT,
            hint="Choose the recipe's channels anew, or another run.",
        )
    return found


def whole(run: Run, key: str) -> "Array":
    """All readings of a channel in SI; infinite where they clipped, NaN where not known."""
    import numpy as np

    return np.concatenate([np.empty(0), *(rows[0] for _, rows in in_pieces(run, [key]))])


def in_pieces(run: Run, keys: Sequence[str]) -> "Iterator[tuple[int, Array]]":
    """(first sample, (channels, samples) in SI) of channels at the same instants, in pieces."""
    changes = _changes.get()
    for first, rows in rows_of(readings_of(run), keys):
        for place, key in enumerate(keys):
            if key in changes:
                gain, offset = changes[key]
                rows[place] = rows[place] * gain + offset
        yield first, rows


UNCHANGED: Mapping[str, tuple[float, float]] = MappingProxyType({})
_changes: ContextVar[Mapping[str, tuple[float, float]]] = ContextVar("changes", default=UNCHANGED)


@contextmanager
def changed_readings(changes: Mapping[str, tuple[float, float]]) -> Iterator[None]:
    """Within it, all readings of some channels come times a gain and plus an offset (SI)."""
    token = _changes.set(changes)
    try:
        yield
    finally:
        _changes.reset(token)


def samples_of(run: Run, keys: Iterable[str]) -> int:
    """How many samples some channels have together."""
    return sum(times_with(run, key).samples for key in keys)


def times_with(run: Run, key: str) -> StreamTimes:
    """Where the samples of a channel lie in time."""
    return complete_readings(readings_of(run), key).times


def clipped_note(channel: ReadableChannel, clipped: int, samples: int) -> str:
    """What a reader must know of samples at the converter's rail; empty if there are none."""
    if not clipped:
        return ""
    return (
        f"{channel.name} clipped in {clipped} of {samples} samples: they have no value and are "
        "left out, so what it would have shown there is not in these results."
    )
