"""The protocol of stretches: from when to when of a run."""

from collections.abc import Callable, Iterator
from math import inf
from typing import TYPE_CHECKING

from yoke_server.kinds.spec import Spec

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Array = NDArray[np.float64]

# Of a channel by its key: seconds of the run and readings (SI), piece by piece.
Pieces = Callable[[str], "Iterator[tuple[Array, Array]]"]


class RunStretch(Spec):
    """A part of a run."""

    @property
    def channels(self) -> tuple[str, ...]:
        """Keys of the channels that say where it is."""
        return ()

    def bounds(self, pieces: Pieces) -> tuple[float, float]:
        """Seconds of the run; raises `SummaryError` where the run has no such stretch."""
        return -inf, inf
