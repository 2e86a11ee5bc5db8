"""Cycles of a history by rainflow counting."""

from dataclasses import dataclass, field

import numba
import numpy as np
from numpy.typing import NDArray

from yoke_core.errors import FatigueError
from yoke_core.fatigue.turning import turning_points

Values = NDArray[np.float32]
Array = NDArray[np.float64]
AT_BORDER = 1e-6  # of a class: what lies so near below a border lies on it


@dataclass(frozen=True, slots=True)
class Cycles:
    """Counted cycles, each with its own ends: nothing is rounded.

    first, last : (n,), between which each goes
    count : what each counts, 1 or 0.5
    """

    first: Values
    last: Values
    count: float

    @property
    def total(self) -> float:
        return self.count * len(self.first)

    @property
    def ranges(self) -> Array:
        return np.abs(self.last.astype(float) - self.first)

    @property
    def means(self) -> Array:
        return (self.last.astype(float) + self.first) / 2


class RangeMeanMatrix:
    """Cycles in classes of ``width`` of range and mean, as they come.

    Classes of means begin at a multiple of ``width``. What lies on a border belongs to the
    class above it.

    Parameters
    ----------
    width : float, above zero
    lowest, highest : float
        Between which the history lies.
    """

    def __init__(self, width: float, lowest: float, highest: float) -> None:
        self._width = width
        self._first = int(_classes(np.array(lowest), width))
        rows = int(_classes(np.array(highest - lowest), width)) + 1
        columns = int(_classes(np.array(highest), width)) - self._first + 1
        self.counts = np.zeros((rows, columns))
        self.weights = np.zeros((rows, columns))  # the sum of what each cycle weighs

    @property
    def lowest_mean(self) -> float:
        """Lower edge of the first class of means."""
        return self._first * self._width

    def add(self, cycles: Cycles, weights: Array | None = None) -> None:
        """``weights``: of each cycle, for instance its damage."""
        rows = _classes(cycles.ranges, self._width)
        columns = _classes(cycles.means, self._width) - self._first
        np.add.at(self.counts, (rows, columns), cycles.count)
        if weights is not None:
            np.add.at(self.weights, (rows, columns), weights)


def _classes(values: Array, width: float) -> NDArray[np.intp]:
    return np.floor(values / width + AT_BORDER).astype(np.intp)


@numba.njit(cache=True, nogil=True)
def _count(points, stack, depth, first, last):  # type: ignore[no-untyped-def]
    """Push points; of the last four, the inner way is a cycle if neither outer is shorter."""
    found = 0
    for d in points:
        while depth >= 3:
            b, c = stack[depth - 2], stack[depth - 1]
            inner = abs(b - c)
            if (inner > abs(c - d)) | (inner > abs(stack[depth - 3] - b)):
                break
            first[found], last[found] = b, c
            found += 1
            depth -= 2
        stack[depth] = d
        depth += 1
    return depth, found


@dataclass(slots=True)
class RainflowCounter:
    """Counts turning points block by block; equal to `rainflow` for any block sizes.

    Notes
    -----
    Rainflow counting by ASTM E1049-85 (2017), 5.4.4: closing cycles by the four-point method
    and counting what is left over as half cycles gives the standard's counts.
    """

    _left: Values = field(default_factory=lambda: np.empty(0, np.float32))

    def push(self, points: Values) -> Cycles:
        """The cycles that these close."""
        depth = len(self._left)
        stack = np.empty(depth + len(points), np.float32)
        stack[:depth] = self._left
        first, last = np.empty((2, (depth + len(points)) // 2 + 1), np.float32)
        depth, found = _count(points.astype(np.float32), stack, depth, first, last)
        self._left = stack[:depth].copy()
        return Cycles(first[:found], last[:found], 1.0)

    def finish(self) -> Cycles:
        """What is left over, as half cycles.

        Raises
        ------
        FatigueError
            If there is nothing: the history had no way longer than the gate.
        """
        if len(self._left) < 2:
            raise FatigueError(
                "gate",
                "The history has no reversal beyond the gate, so there is no cycle.",
                "Lower the gate, or choose another channel.",
            )
        return Cycles(self._left[:-1], self._left[1:], 0.5)


def rainflow(values: Values, gate: float = 0.0) -> tuple[Cycles, Cycles]:
    """Whole and half cycles of a whole history; see `RainflowCounter`.

    Parameters
    ----------
    values : array of float32, shape (n,)
    gate : float
        Ways up to this long are left out, in the values' unit.

    Returns
    -------
    whole, halves : Cycles

    Raises
    ------
    FatigueError
        If the history has no way longer than the gate.

    Notes
    -----
    ASTM E1049-85 (2017), 5.4.4; the example is that of its figure 6.

    Examples
    --------
    >>> whole, halves = rainflow(np.array([-2, 1, -3, 5, -1, 3, -4, 4, -2], np.float32))
    >>> whole.ranges, halves.ranges
    (array([4.]), array([3., 4., 8., 9., 8., 6.]))
    """
    counter = RainflowCounter()
    return counter.push(turning_points(values, gate)), counter.finish()
