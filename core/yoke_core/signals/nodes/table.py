"""A curve by its points."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from yoke_core.errors import SignalError
from yoke_core.signals.node import Array, Node, Process


@dataclass(frozen=True, slots=True)
class LookupTable:
    """Straight lines between points (x, y) in rising order of x; NaN beyond the ends.

    Raises
    ------
    SignalError
        For fewer than two points, or x that does not rise.
    """

    points: tuple[tuple[float, float], ...]
    inputs: tuple[Node, ...]

    def __post_init__(self) -> None:
        if len(self.points) < 2 or any(a[0] >= b[0] for a, b in pairwise(self.points)):
            raise SignalError(
                "points",
                "A table needs two points or more, each further along than the one before.",
                "Put the points in order.",
            )

    def start(self, rate_hz: float) -> Process:
        return _LookupTable(*np.array(self.points).T)


class _LookupTable:
    def __init__(self, x: Array, y: Array) -> None:
        self._x, self._y = x, y

    def push(self, values: Sequence[Array], follows: bool) -> Array:
        (at,) = values
        found = np.interp(at, self._x, self._y, left=np.nan, right=np.nan)
        return np.where(np.isnan(at), np.nan, found)
