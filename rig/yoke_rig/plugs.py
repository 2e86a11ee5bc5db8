"""The sensors in the inputs of the benches' amplifiers."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from yoke_rig.faults import Fault
from yoke_rig.network import (
    OPEN,
    Cable,
    Wiring,
    full_bridge_ratio,
    half_bridge_ratio,
    quarter_bridge_ratio,
)
from yoke_rig.sheets import BLANK, METRE, NEWTON, transducer
from yoke_rig.state import State
from yoke_rig.wired import (
    CHECK_LIFT,
    CHECK_PULL,
    Pins,
    Setting,
    Wires,
    mode_of,
    pins_of,
    ratio,
    strained,
    wires_of,
)

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True, eq=False)
class Plug:
    """A sensor plugged into one input.

    ``source`` is what it feels; ``gain`` V/V per N or m/m, or a grid's gauge factor.
    """

    wiring: Wiring = Wiring.NOTHING
    source: str = ""
    resistance: float = 350.0
    unbalance: float = 0.0  # V/V
    gain: float = 0.0
    cable: Cable = Cable()
    sheet: bytes = b""  # what its memory held when it was plugged in; none: it has no memory

    def ratio(self, state: State, setting: Setting, faults: tuple[Fault, ...] = ()) -> Array:
        """Bridge output over excitation at each instant."""
        felt = self._felt(state)
        if (felt == felt[0]).all():
            return np.full(felt.size, _at_rest(self, float(felt[0]), setting, faults))
        return self.output(felt, setting, faults)

    def output(self, felt: Array, setting: Setting, faults: tuple[Fault, ...]) -> Array:
        """The same of what it feels, in N, m or m/m."""
        if faults or mode_of(self.wiring) != setting.mode:
            return ratio(self._wires(felt, faults), setting)
        if self.wiring in DIVIDERS:
            return self._share(felt, setting.carrier)
        return self._sound_ratio(felt, setting.completion, setting.shunt)

    def pins(
        self, state: State, setting: Setting, faults: tuple[Fault, ...], polarity: float
    ) -> Pins:
        """What a check reads at the last instant, with the excitation as ``polarity`` says."""
        wires = self._wires(self._felt(state)[-1:], faults)
        return pins_of(wires, setting, polarity, CHECK_PULL, CHECK_LIFT)

    def _felt(self, state: State) -> Array:
        return state.of(self.source) if self.source else np.zeros(state.force.size)

    def _wires(self, felt: Array, faults: tuple[Fault, ...]) -> Wires:
        return wires_of(self.wiring, self._arms(felt), self.cable.core, felt.size, faults)

    def _arms(self, felt: Array) -> dict[int, Array]:
        """Resistance of each strained arm; a torn grid has none."""
        if self.wiring is Wiring.NOTHING:
            return {}
        if self.wiring in DIVIDERS:
            share = self._share(felt, carrier=0.0)
            ends = {1: 0.5 + share, 2: 0.5 - share}
            return {arm: np.maximum(self.resistance * part, 1e-3) for arm, part in ends.items()}
        arms = strained(self.wiring)
        if len(arms) == 1:
            return {1: self._grid(felt, 4 * self.unbalance)}
        if len(arms) == 2:
            return {1: self._grid(felt, 2 * self.unbalance), 2: self._grid(-felt, 0.0)}
        x = self.gain * felt + self.unbalance
        return {arm: self.resistance * (1 + (x if arm % 2 else -x)) for arm in arms}

    def _share(self, felt: Array, carrier: float) -> Array:
        """Where a tap stands, -0.5 to 0.5; without a carrier the coils of a core are alike."""
        if self.wiring is Wiring.INDUCTIVE and not carrier:
            return np.zeros(felt.size)
        return np.clip(self.gain * felt + self.unbalance, -0.5, 0.5)

    def _sound_ratio(self, felt: Array, completion: float, shunt: float | None) -> Array:
        """The same, wired as it should be; cheaper than pin by pin."""
        if self.wiring is Wiring.NOTHING:
            return np.full(felt.size, 1.0)  # an open input drifts into its rail
        if self.wiring in (Wiring.QUARTER_2, Wiring.QUARTER_3):
            three = self.wiring is Wiring.QUARTER_3
            grid = self._grid(felt, 4 * self.unbalance)
            return quarter_bridge_ratio(grid, completion, self.cable, shunt, three)
        if self.wiring in (Wiring.HALF_3, Wiring.HALF_5):
            first, second = self._grid(felt, 2 * self.unbalance), self._grid(-felt, 0.0)
            sensed = self.wiring is Wiring.HALF_5
            return half_bridge_ratio(first, second, self.cable, sensed, shunt)
        x = self.gain * felt + self.unbalance
        arms = self.resistance * np.stack([1 + x, 1 - x, 1 + x, 1 - x], axis=1)
        return full_bridge_ratio(arms, self.cable, self.wiring is Wiring.FULL_6, shunt)

    def _grid(self, strain: Array, more: float) -> Array:
        torn = ~np.isfinite(strain)
        grid = self.resistance * (1 + self.gain * np.where(torn, 0.0, strain) + more)
        return np.where(torn, OPEN, grid)


@lru_cache(maxsize=256)
def _at_rest(plug: Plug, felt: float, setting: Setting, faults: tuple[Fault, ...]) -> float:
    """What rests is not solved anew for each block."""
    return float(plug.output(np.array([felt]), setting, faults)[0])


DIVIDERS = (Wiring.POTENTIOMETER, Wiring.INDUCTIVE)
FREE = Plug()
CABLE_6 = Cable(0.77)  # 6 m
PLUGS: tuple[Plug, ...] = (
    Plug(
        Wiring.FULL_6, "force", 350.0, -1.3e-5, 2e-3 / 25e3, CABLE_6,
        transducer("LC-2207", 2207, NEWTON, 25e3, 2e-3, 10299),
    ),
    Plug(
        Wiring.FULL_6, "extension", 350.0, 2.1e-5, 2e-3 / (10e-3 / 50e-3), CABLE_6,
        transducer("EX-0351", 351, METRE, 10e-3, 2e-3, 10379),
    ),
    Plug(Wiring.QUARTER_3, "gauge", 350.0, 1.52e-4, 2.08, CABLE_6, BLANK),
    Plug(Wiring.QUARTER_3, "gauge", 350.0, -0.87e-4, 2.08, CABLE_6, BLANK),
    FREE, FREE, FREE, FREE,
)  # fmt: skip
# The second amplifier: a gauge on the back face, and a load cell in line with the first.
SECOND_PLUGS: tuple[Plug, ...] = (
    Plug(Wiring.QUARTER_3, "gauge", 350.0, 0.41e-4, 2.08, CABLE_6),
    Plug(
        Wiring.FULL_6,
        "force",
        350.0,
        0.9e-5,
        2e-3 / 10e3,
        CABLE_6,
        transducer("LC-1180", 1180, NEWTON, 10e3, 2e-3, 10154),
    ),
    # A wiper that goes 100 mm from end to end, and a core about the crosshead's place.
    Plug(Wiring.POTENTIOMETER, "position", 5000.0, 0.0, 1 / 100e-3),
    Plug(Wiring.INDUCTIVE, "position", 350.0, 2.0e-3, 80e-3 / 10e-3),
    FREE,
    FREE,
    FREE,
    FREE,
)
# The fork's: a rosette at the crown, the axle's load cell, a bending pair, a gauge far away, a
# reference cell in series with the axle's, and a torque sensor on its calibration arm.
FORK_PLUGS: tuple[Plug, ...] = (
    Plug(Wiring.QUARTER_3, "R1a", 350.0, 0.62e-4, 2.08, CABLE_6),
    Plug(Wiring.QUARTER_3, "R1b", 350.0, -1.14e-4, 2.08, CABLE_6),
    Plug(Wiring.QUARTER_3, "R1c", 350.0, 0.93e-4, 2.08, CABLE_6),
    Plug(
        Wiring.FULL_6,
        "axle cell",
        350.0,
        1.7e-5,
        2e-3 / 10e3,
        CABLE_6,
        transducer("LC-1192", 1192, NEWTON, 10e3, 2e-3, 10338),
    ),
    Plug(Wiring.HALF_3, "B1", 350.0, -0.8e-4, 2.05, CABLE_6),
    Plug(Wiring.QUARTER_2, "G4", 120.0, 0.35e-4, 2.05, Cable(12 * 0.128)),
    Plug(Wiring.FULL_6, "reference cell", 350.0, -0.6e-5, 2e-3 / 10e3, CABLE_6),
    Plug(Wiring.FULL_6, "torque cell", 350.0, 1.1e-5, 1.5e-3 / 200.0, CABLE_6),
)
