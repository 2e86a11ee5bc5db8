"""The stop condition of a pull or a push: the force has fallen from its largest."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from yoke_core.checks import positive


@dataclass(slots=True)
class ForceDropWatch:
    """Tells where the force first falls by ``drop`` of its largest so far.

    Parameters
    ----------
    arm_level : float, N
        The watch sleeps until the force has reached this magnitude once, pulling or pressing.
    drop : float
        Share of the largest force, between 0 and 1.

    Attributes
    ----------
    largest : float, N
        The force of the largest magnitude so far, with its sign. A force that changes its sign
        has fallen. Set it to go on from where another watch was.

    Feeding blocks of any size gives the same answer as feeding the whole array.

    Examples
    --------
    >>> ForceDropWatch(arm_level=100.0, drop=0.4).push([0.0, -500.0, -900.0, -500.0])
    3
    """

    arm_level: float
    drop: float
    largest: float = 0.0

    def __post_init__(self) -> None:
        positive("arm_level", self.arm_level)
        positive("drop", self.drop)

    def quiet(self, lowest: float, highest: float) -> bool:
        """Whether a block with these extremes (N) cannot hold the drop; then it need not be
        pushed."""
        for largest in (self.largest, lowest, highest):
            least = lowest if largest >= 0 else -highest  # in the largest's sense
            if abs(largest) >= self.arm_level and least < (1 - self.drop) * abs(largest):
                return False
        self.largest = max(self.largest, lowest, highest, key=abs)
        return True

    def push(self, force: ArrayLike) -> int | None:
        """Index in this block of the first sample past the drop, or None.

        force : (n,), N. Samples without a value (NaN, or infinite where they clipped) say
        nothing.
        """
        samples = np.asarray(force, dtype=float)
        known = np.isfinite(samples)
        values = np.concatenate([[self.largest], np.where(known, samples, 0.0)])
        magnitude = np.maximum.accumulate(np.abs(values))
        newest = np.maximum.accumulate(
            np.where(np.abs(values) == magnitude, np.arange(values.size), 0)
        )
        self.largest = float(values[newest[-1]])
        before = values[newest[:-1]]  # the largest before each sample
        armed = magnitude[:-1] >= self.arm_level
        fallen = known & armed & (np.sign(before) * values[1:] < (1 - self.drop) * np.abs(before))
        return int(np.argmax(fallen)) if fallen.any() else None
