"""The stop condition of a pull: the force has fallen from its highest."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike

from yoke_core.checks import positive


@dataclass(slots=True)
class ForceDropWatch:
    """Tells where the force first falls by ``drop`` of its highest so far.

    Parameters
    ----------
    arm_level : float, N
        The watch sleeps until the force has reached this level once.
    drop : float
        Share of the highest force, between 0 and 1.

    Feeding blocks of any size gives the same answer as feeding the whole array.
    """

    arm_level: float
    drop: float
    _highest: float = 0.0

    def __post_init__(self) -> None:
        positive("arm_level", self.arm_level)
        positive("drop", self.drop)

    def quiet(self, lowest: float, highest: float) -> bool:
        """Whether a block with these extremes cannot hold the drop; then it need not be pushed."""
        top = max(self._highest, highest)
        if top >= self.arm_level and lowest < (1 - self.drop) * top:
            return False
        self._highest = top
        return True

    def push(self, force: ArrayLike) -> int | None:
        """Index in this block of the first sample past the drop, or None.

        Samples without a value (NaN, or infinite where they clipped) say nothing.
        """
        samples = np.asarray(force, dtype=float)
        known = np.isfinite(samples)
        values = np.where(known, samples, 0.0)
        highest = np.maximum.accumulate(np.concatenate([[self._highest], values]))[1:]
        if samples.size:
            self._highest = float(highest[-1])
        fallen = known & (highest >= self.arm_level) & (values < (1 - self.drop) * highest)
        return int(np.argmax(fallen)) if fallen.any() else None
