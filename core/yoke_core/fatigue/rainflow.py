"""Cycles of a history by rainflow counting."""

from dataclasses import dataclass, field
from itertools import pairwise

import numba
import numpy as np
from numpy.typing import NDArray

from yoke_core.errors import FatigueError
from yoke_core.fatigue.turning import turning_points

Values = NDArray[np.float32]
Array = NDArray[np.float64]
LEVELS = 256
MOST_LEVELS = 2048


@dataclass(frozen=True, slots=True)
class Cycles:
    """Counted cycles by the levels between which they go.

    from_to : (levels, levels), cycles from one level to another; a half cycle counts 0.5
    values : (levels,), at evenly spaced levels
    """

    from_to: Array
    values: Array

    @property
    def total(self) -> float:
        return float(self.from_to.sum())

    @property
    def ranges(self) -> Array:
        """Range of each field of the matrix."""
        return np.abs(self.values[:, None] - self.values[None, :])

    @property
    def means(self) -> Array:
        """Mean of each field of the matrix."""
        return np.add.outer(self.values, self.values) / 2


def range_mean(cycles: Cycles, width: float) -> tuple[Array, Array, Array]:
    """The cycles in classes of ``width``: counts (ranges, means), lower edges of both.

    Classes of means begin at a multiple of ``width``.
    """
    counted = cycles.from_to > 0
    ranges, means = cycles.ranges[counted], cycles.means[counted]
    if not len(ranges):
        return np.zeros((0, 0)), np.zeros(0), np.zeros(0)
    rows = np.floor(ranges / width).astype(int)
    columns = np.floor(means / width).astype(int)
    first = columns.min()
    counts = np.zeros((rows.max() + 1, columns.max() - first + 1))
    np.add.at(counts, (rows, columns - first), cycles.from_to[counted])
    edges = np.arange(counts.shape[0]) * width, (first + np.arange(counts.shape[1])) * width
    return counts, *edges


@numba.njit(cache=True, nogil=True)
def _count(points, left, halves):  # type: ignore[no-untyped-def]
    """Push levels; of the last four, the inner way is a cycle if neither outer is shorter.

    What is left over first widens and then narrows, so it has no more than two points a level.
    """
    stack = np.empty(2 * halves.shape[0] + 4, np.int32)
    depth = left.size
    stack[:depth] = left
    for k in range(points.size):
        d = points[k]
        while depth >= 3:
            b, c = stack[depth - 2], stack[depth - 1]
            inner = abs(b - c)
            if (inner > abs(c - d)) | (inner > abs(stack[depth - 3] - b)):
                break
            halves[b, c] += 2
            depth -= 2
        stack[depth] = d
        depth += 1
    return stack[:depth].copy()


@dataclass(slots=True)
class RainflowCounter:
    """Counts turning points block by block; equal to `rainflow` for any block sizes.

    Parameters
    ----------
    lowest, highest : float
        Between which the history lies.
    levels : int
        To which points are rounded: evenly spaced, both ends among them.

    Notes
    -----
    Rainflow counting by ASTM E1049-85 (2017), 5.4.4: closing cycles by the four-point method
    and counting what is left over as half cycles gives the standard's counts. Cycles that
    rounding makes nothing of are not counted.
    """

    lowest: float
    highest: float
    levels: int = LEVELS
    _halves: NDArray[np.int64] = field(init=False)
    _left: NDArray[np.int32] = field(init=False)

    def __post_init__(self) -> None:
        if not 2 <= self.levels <= MOST_LEVELS:
            raise FatigueError(
                "levels",
                f"There can be 2 to {MOST_LEVELS} levels, not {self.levels}.",
                "Give another number of levels.",
            )
        if not self.lowest < self.highest:
            raise FatigueError(
                "gate",
                "The history has no reversal beyond the gate, so there is no cycle.",
                "Lower the gate, or choose another channel.",
            )
        self._halves = np.zeros((self.levels, self.levels), np.int64)
        self._left = np.empty(0, np.int32)

    def push(self, points: Values) -> None:
        per_level = (self.highest - self.lowest) / (self.levels - 1)
        scaled = points * np.float32(1 / per_level)
        scaled -= np.float32(self.lowest / per_level - 0.5)
        levels = np.clip(scaled, 0, self.levels - 1).astype(np.int32)
        self._left = _count(levels, self._left, self._halves)

    def finish(self) -> Cycles:
        """All cycles; what is left over counts as half cycles."""
        for a, b in pairwise(self._left):
            self._halves[a, b] += 1
        np.fill_diagonal(self._halves, 0)
        values = np.linspace(self.lowest, self.highest, self.levels)
        return Cycles(self._halves / 2, values)


def rainflow(values: Values, levels: int = LEVELS, gate: float = 0.0) -> Cycles:
    """Cycles of a whole history; see `RainflowCounter`.

    Raises
    ------
    FatigueError
        If the history has no way longer than the gate.
    """
    points = turning_points(values, gate)
    ends = (float(points.min()), float(points.max())) if len(points) else (0.0, 0.0)
    counter = RainflowCounter(*ends, levels)
    counter.push(points)
    return counter.finish()
