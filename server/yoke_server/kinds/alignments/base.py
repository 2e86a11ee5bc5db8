"""The protocol of alignments: which instant of a run becomes the zero of its time."""

from collections.abc import Iterator
from typing import TYPE_CHECKING, Protocol

from yoke_server.kinds.spec import Spec

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Array = NDArray[np.float64]


class AlignedRun(Protocol):
    """What an alignment may ask of a run.

    pieces : of a channel by its name: seconds of the run and readings (SI), piece by piece
    markers : seconds of its markers and their words, in order
    """

    def pieces(self, name: str) -> "Iterator[tuple[Array, Array]]": ...
    def markers(self) -> list[tuple[float, str]]: ...


class Alignment(Spec):
    """One way to find the instant."""

    def instant(self, run: AlignedRun) -> float:
        """Seconds of the run; raises `SummaryError` where it has none."""
        raise NotImplementedError
