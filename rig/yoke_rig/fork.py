"""A front fork as a beam held at the steerer and loaded at the axle.

It bends in proportion to the force, with a little friction in the joints. At the crown it is
strained most. Each swing adds damage; late in life a crack makes it softer and the crown's
strain higher, until it gives way.
"""

import math
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

CROWN_PER_N = 0.42e-6  # m/m, first principal strain at the crown
CROWN_SHARE = -0.34  # second principal strain over the first
CROWN_ANGLE = math.radians(21.0)  # of the first, from grid a
STEERER_PER_N = 0.18e-6  # bending strain of either face
BLADE_PER_N = 0.24e-6
GRIDS = {"R1a": 0.0, "R1b": math.radians(45.0), "R1c": math.radians(90.0)}
CRACK_BEGINS = 0.6  # of the life
RANGE_OF_LIFE = 1600.0  # N, a swing that is borne 60 000 times
CYCLES_OF_LIFE = 60_000
EXPONENT = 5.0  # of the swing, for damage


@dataclass(slots=True)
class Fork:
    """One fork; forces in N, pulling the axle aft positive."""

    stiffness: float = 182e3  # N/m
    friction: float = 12.0  # N in the joints, which the deflection lags by
    damage: float = 0.0  # 1 at the end of its life
    _joint: float = 0.0  # N, how the joints are tensed
    _last: float = 0.0
    _turned_at: float = 0.0
    _rising: bool = True
    _grids: dict[str, float] = field(default_factory=lambda: dict(GRIDS))

    @property
    def broken(self) -> bool:
        return self.damage >= 1

    @property
    def crack(self) -> float:
        """From 0 where none is to 1 where it has run through."""
        return max(0.0, (self.damage - CRACK_BEGINS) / (1 - CRACK_BEGINS)) ** 2

    def bear(self, force: Array) -> Array:
        """Let the axle feel forces one after the other; gives its deflection (m)."""
        joint = np.empty(force.size)
        for i, value in enumerate(force):
            self._joint += float(value) - self._last
            self._joint = min(max(self._joint, -self.friction), self.friction)
            joint[i] = self._joint
            self._wear(float(value))
            self._last = float(value)
        softness = (1 + 0.8 * self.crack) / self.stiffness
        return np.asarray((force - 0.5 * joint) * softness)

    def _wear(self, force: float) -> None:
        rising = force > self._last
        if force == self._last or rising == self._rising:
            return
        swing = abs(self._last - self._turned_at)
        self.damage += 0.5 * (swing / RANGE_OF_LIFE) ** EXPONENT / CYCLES_OF_LIFE
        self._turned_at, self._rising = self._last, rising

    def carries(self, position: float) -> float:
        """The force (N) at a deflection, joints at rest."""
        return position * self.stiffness / (1 + 0.8 * self.crack)

    def strains(self, force: Array) -> dict[str, Array]:
        """What the gauges on it feel."""
        first = CROWN_PER_N * (1 + 0.9 * self.crack) * force
        second = CROWN_SHARE * first
        angle = CROWN_ANGLE + 0.12 * self.crack
        middle, radius = (first + second) / 2, (first - second) / 2
        grids = {
            name: middle + radius * math.cos(2 * (angle - at)) for name, at in self._grids.items()
        }
        return {**grids, "B1": STEERER_PER_N * force, "G4": BLADE_PER_N * force}
