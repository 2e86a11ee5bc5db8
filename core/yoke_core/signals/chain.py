"""From raw signal to reading, step by step: the same object live, in views and for results."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import ArrayLike, NDArray

from yoke_core.bridge.circuit import BridgeStrain
from yoke_core.scaling.line import Line

Array = NDArray[np.float64]


class Step(Protocol):
    """One step; ``direction`` is 1 where more is more, -1 where more is less, else 0."""

    @property
    def direction(self) -> int: ...
    def apply(self, signal: ArrayLike) -> Array: ...


def _through(step: Step, low: Array, high: Array) -> tuple[Array, Array]:
    """Output range for an input interval, including extrema inside it.

    NaN where any of it has no number: an extreme of the rest would hide that.
    """
    first, last = step.apply(low), step.apply(high)
    if step.direction > 0:
        return first, last
    if step.direction < 0:
        return last, first
    least, most = np.minimum(first, last), np.maximum(first, last)
    for turn in getattr(step, "turns", ()):
        inside, value = (low <= turn) & (turn <= high), step.apply(turn)
        least = np.where(inside, np.minimum(least, value), least)
        most = np.where(inside, np.maximum(most, value), most)
    return least, most


@dataclass(frozen=True, slots=True)
class SignalChain:
    """Steps in order: zero, sign, scaling, corrections, tare."""

    steps: tuple[Step, ...]

    @property
    def direction(self) -> int:
        """0 where raw extremes are no extremes of the reading."""
        return int(np.prod([s.direction for s in self.steps]))

    def apply(self, signal: ArrayLike) -> Array:
        """Readings in SI for signals of any shape."""
        found = np.asarray(signal, dtype=float)
        for step in self.steps:
            found = step.apply(found)
        return found

    def extremes(self, lowest: ArrayLike, highest: ArrayLike) -> tuple[Array, Array]:
        """Lowest and highest reading while the signal runs from ``lowest`` to ``highest``."""
        low, high = np.asarray(lowest, dtype=float), np.asarray(highest, dtype=float)
        for step in self.steps:
            low, high = _through(step, low, high)
        return low, high

    def steepness(self, signal: float, span: float) -> float:
        """Reading per signal, without its sign, over ``span`` about ``signal``."""
        low, high = self.apply([signal - span / 2, signal + span / 2])
        return abs(float(high - low)) / span

    @property
    def line(self) -> Line | None:
        """The whole chain as one line, if each of its steps is one."""
        return _joined(self.steps)

    @property
    def bridge(self) -> tuple[Line, BridgeStrain, Line] | None:
        """The chain as a bridge between two lines, if it is that."""
        place = next((i for i, s in enumerate(self.steps) if isinstance(s, BridgeStrain)), None)
        if place is None:
            return None
        before, after = _joined(self.steps[:place]), _joined(self.steps[place + 1 :])
        bridge = self.steps[place]
        assert isinstance(bridge, BridgeStrain)
        return (before, bridge, after) if before and after else None


def _joined(steps: Sequence[Step]) -> Line | None:
    slope, offset = 1.0, 0.0
    for step in steps:
        if not isinstance(step, Line):
            return None
        slope, offset = slope * step.slope, offset * step.slope + step.offset
    return Line(slope, offset)
