"""What hangs together on the bench: crosshead, coupon, and the sensors on them."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from yoke_rig.coupon import Coupon, Material
from yoke_rig.frame import Crosshead, Motion
from yoke_rig.network import (
    OPEN,
    Cable,
    Wiring,
    full_bridge_ratio,
    quarter_bridge_ratio,
)

Array = NDArray[np.float64]

GAUGE_STRAIN_LIMIT = 0.02
STEP = 2e-3  # s between solved instants; the converter interpolates


@dataclass(frozen=True, slots=True)
class State:
    """Forces, strains and where the crosshead stood, at consecutive instants."""

    force: Array  # N
    strain: Array  # m/m, over the gauge length
    gauge_intact: NDArray[np.bool_]
    position: Array  # m
    seconds: Array  # since the bench was switched on


@dataclass(frozen=True, slots=True)
class Plug:
    """A sensor plugged into one input."""

    wiring: Wiring = Wiring.NOTHING
    source: str = ""  # force, extension or gauge
    resistance: float = 350.0
    unbalance: float = 0.0  # V/V
    gain: float = 0.0  # V/V per N or m/m; gauge factor for a gauge
    cable: Cable = Cable()

    def ratio(self, state: State, completion: float, shunt: float | None) -> Array:
        """Bridge output over excitation at each instant."""
        if self.wiring is Wiring.NOTHING:
            return np.full(state.force.size, 1.0)  # an open input drifts into its rail
        if self.source == "gauge":
            grid = self.resistance * (1 + self.gain * state.strain + 4 * self.unbalance)
            grid = np.where(state.gauge_intact, grid, OPEN)
            return quarter_bridge_ratio(grid, completion, self.cable, shunt)
        signal = self.gain * (state.force if self.source == "force" else state.strain)
        x = signal + self.unbalance
        arms = self.resistance * np.stack([1 + x, 1 - x, 1 + x, 1 - x], axis=1)
        return full_bridge_ratio(arms, self.cable, self.wiring is Wiring.FULL_6, shunt)


PLUGS: tuple[Plug, ...] = (
    Plug(Wiring.FULL_6, "force", 350.0, -1.3e-5, 2e-3 / 25e3, Cable(0.77)),
    Plug(Wiring.FULL_6, "extension", 350.0, 2.1e-5, 2e-3 / (10e-3 / 50e-3), Cable(0.39)),
    Plug(Wiring.QUARTER_3, "gauge", 350.0, 1.52e-4, 2.08, Cable(0.77)),
    Plug(Wiring.QUARTER_3, "gauge", 350.0, -0.87e-4, 2.08, Cable(0.77)),
    Plug(),
    Plug(),
    Plug(),
    Plug(),
)
# The second amplifier: a gauge on the back face, and a load cell in line with the first.
SECOND_PLUGS: tuple[Plug, ...] = (
    Plug(Wiring.QUARTER_3, "gauge", 350.0, 0.41e-4, 2.08, Cable(0.77)),
    Plug(Wiring.FULL_6, "force", 350.0, 0.9e-5, 2e-3 / 10e3, Cable(0.77)),
    Plug(),
    Plug(),
    Plug(),
    Plug(),
    Plug(),
    Plug(),
)


@dataclass(slots=True)
class World:
    """One bench. Same seed, same coupons."""

    seed: int = 7
    crosshead: Crosshead = field(default_factory=Crosshead)
    coupon: Coupon = field(init=False)
    _gauge_intact: bool = True
    _seconds: float = 0.0
    _random: np.random.Generator = field(init=False)

    def __post_init__(self) -> None:
        self._random = np.random.default_rng(self.seed)
        self.fit_coupon()

    def reset(self, seed: int) -> None:
        """As switched on with ``seed``: home, at rest, a fresh coupon."""
        self.seed = seed
        self._seconds = 0.0
        limits = type(self.crosshead)()
        for name in ("position", "motion", "lowest", "highest", "force_limit", "heartbeat"):
            setattr(self.crosshead, name, getattr(limits, name))
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
        """Let ``steps`` instants of `STEP` seconds pass."""
        was_moving_home = self.crosshead.motion is Motion.RETURN
        position = self.crosshead.advance(STEP, steps)
        force, strain = self.coupon.pull(position)
        seconds = self._seconds + STEP * np.arange(1, steps + 1, dtype=np.float64)
        self._seconds = float(seconds[-1]) if steps else self._seconds
        self.crosshead.trip_if_over(float(force[-1]))
        intact = self._gauge_intact & (np.maximum.accumulate(strain) < GAUGE_STRAIN_LIMIT)
        self._gauge_intact = bool(intact[-1])
        arrived = was_moving_home and self.crosshead.motion is Motion.HOLD
        if arrived and self.coupon.broken:
            self.fit_coupon()  # stands for the person at the grips
        return State(force, strain, intact, position, seconds)
