"""What hangs together on a bench: what moves, what is loaded by it, and what that feels."""

from dataclasses import dataclass, field
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from yoke_rig.coupon import Coupon, Material
from yoke_rig.fork import Fork
from yoke_rig.frame import Crosshead, Motion
from yoke_rig.state import STEP, State

Array = NDArray[np.float64]

GAUGE_STRAIN_LIMIT = 0.02


class World(Protocol):
    """One bench's mechanics. Same seed, same pieces."""

    crosshead: Crosshead

    def reset(self, seed: int) -> None:
        """As switched on with ``seed``: home, at rest, a fresh piece."""
        ...

    def advance(self, steps: int) -> State:
        """Let ``steps`` instants of `STEP` seconds pass."""
        ...


@dataclass(slots=True)
class Clock:
    """Seconds since the bench was switched on."""

    at: float = 0.0

    def pass_steps(self, steps: int) -> Array:
        seconds = self.at + STEP * np.arange(1, steps + 1, dtype=np.float64)
        self.at = float(seconds[-1]) if steps else self.at
        return seconds


@dataclass(slots=True)
class CouponWorld:
    """A load frame that pulls coupons, and a person who fits the next one."""

    seed: int = 7
    crosshead: Crosshead = field(default_factory=Crosshead)
    coupon: Coupon = field(init=False)
    _gauge_intact: bool = True
    _clock: Clock = field(default_factory=Clock)
    _random: np.random.Generator = field(init=False)

    def __post_init__(self) -> None:
        self._random = np.random.default_rng(self.seed)
        self.fit_coupon()

    def reset(self, seed: int) -> None:
        self.seed = seed
        self._clock = Clock()
        self.crosshead.reset()
        self._random = np.random.default_rng(seed)
        self.fit_coupon()

    def fit_coupon(self) -> None:
        """A fresh coupon with its own small differences, and a fresh gauge on it."""
        spread = 1 + self._random.normal(0, 0.006, 4)
        self.coupon = Coupon(
            Material(
                modulus=68.9e9 * spread[0],
                proof=275e6 * spread[1],
                strength=311e6 * spread[1],
                plastic_at_strength=0.076 * spread[2],
                plastic_at_break=0.112 * spread[3],
            )
        )
        self._gauge_intact = True

    def advance(self, steps: int) -> State:
        was_moving_home = self.crosshead.motion is Motion.RETURN
        position = self.crosshead.advance(STEP, steps)
        force, strain = self.coupon.pull(position)
        self.crosshead.trip_if_over(float(force[-1]))
        intact = self._gauge_intact & (np.maximum.accumulate(strain) < GAUGE_STRAIN_LIMIT)
        self._gauge_intact = bool(intact[-1])
        arrived = was_moving_home and self.crosshead.motion is Motion.HOLD
        if arrived and self.coupon.broken:
            self.fit_coupon()  # stands for the person at the grips
        felt = {"extension": strain, "gauge": np.where(intact, strain, np.inf)}
        return State(force, position, self._clock.pass_steps(steps), felt)


def servo() -> Crosshead:
    """The fork's actuator: 10 kN, 50 mm either way, controls travel or force."""
    return Crosshead(lowest=-50e-3, highest=50e-3, force_limit=10e3, controls_force=True)


@dataclass(slots=True)
class ForkWorld:
    """An actuator that loads a fork at its axle, and a person who fits the next one."""

    seed: int = 11
    crosshead: Crosshead = field(default_factory=servo)
    fork: Fork = field(init=False)
    _clock: Clock = field(default_factory=Clock)
    _random: np.random.Generator = field(init=False)

    def __post_init__(self) -> None:
        self._random = np.random.default_rng(self.seed)
        self.fit_fork()

    def reset(self, seed: int) -> None:
        self.seed = seed
        self._clock = Clock()
        self.crosshead.reset()
        self._random = np.random.default_rng(seed)
        self.fit_fork()

    def fit_fork(self) -> None:
        """A fresh fork with its own small difference."""
        self.fork = Fork(stiffness=182e3 * (1 + float(self._random.normal(0, 0.01))))

    def advance(self, steps: int) -> State:
        head = self.crosshead
        was_moving_home = head.motion is Motion.RETURN
        if head.loads:
            force = head.advance_force(STEP, steps)
            position = self.fork.bear(force)
            head.position = float(position[-1])
        else:
            position = head.advance(STEP, steps)
            force = np.array([self.fork.carries(float(p)) for p in position])
            self.fork.bear(force)
            head.force = float(force[-1])
        if self.fork.broken:
            force = np.zeros(steps)
        head.trip_if_over(float(force[-1]))
        if was_moving_home and head.motion is Motion.HOLD and self.fork.broken:
            self.fit_fork()  # stands for the person at the bench
        felt = self.fork.strains(force)
        return State(force, position, self._clock.pass_steps(steps), felt)
