"""The sensors in the inputs of the benches' amplifiers."""

from dataclasses import dataclass

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


@dataclass(frozen=True, slots=True)
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

    def ratio(self, state: State, setting: Setting, faults: tuple[Fault, ...] = ()) -> Array:
        """Bridge output over excitation at each instant."""
        if faults or mode_of(self.wiring) != setting.mode:
            return ratio(self._wires(state, faults), setting)
        return self._ratio_well(state, setting.completion, setting.shunt)

    def pins(
        self, state: State, setting: Setting, faults: tuple[Fault, ...], polarity: float
    ) -> Pins:
        """What a check reads at the last instant, with the excitation as ``polarity`` says."""
        wires = self._wires(state.last, faults)
        return pins_of(wires, setting, polarity, CHECK_PULL, CHECK_LIFT)

    def _wires(self, state: State, faults: tuple[Fault, ...]) -> Wires:
        size = state.force.size
        return wires_of(self.wiring, self._arms(state), self.cable.core, size, faults)

    def _arms(self, state: State) -> dict[int, Array]:
        """Resistance of each strained arm; a torn grid has none."""
        if self.wiring is Wiring.NOTHING:
            return {}
        felt = state.of(self.source)
        arms = strained(self.wiring)
        if len(arms) == 1:
            return {1: self._grid(felt, 4 * self.unbalance)}
        if len(arms) == 2:
            return {1: self._grid(felt, 2 * self.unbalance), 2: self._grid(-felt, 0.0)}
        x = self.gain * felt + self.unbalance
        return {arm: self.resistance * (1 + (x if arm % 2 else -x)) for arm in arms}

    def _ratio_well(self, state: State, completion: float, shunt: float | None) -> Array:
        """The same, wired as it should be; cheaper than pin by pin."""
        if self.wiring is Wiring.NOTHING:
            return np.full(state.force.size, 1.0)  # an open input drifts into its rail
        felt = state.of(self.source)
        if self.wiring in (Wiring.QUARTER_2, Wiring.QUARTER_3):
            three = self.wiring is Wiring.QUARTER_3
            grid = self._grid(felt, 4 * self.unbalance)
            return quarter_bridge_ratio(grid, completion, self.cable, shunt, three)
        if self.wiring is Wiring.HALF_3:
            first, second = self._grid(felt, 2 * self.unbalance), self._grid(-felt, 0.0)
            return half_bridge_ratio(first, second, completion, self.cable, shunt)
        x = self.gain * felt + self.unbalance
        arms = self.resistance * np.stack([1 + x, 1 - x, 1 + x, 1 - x], axis=1)
        return full_bridge_ratio(arms, self.cable, self.wiring is Wiring.FULL_6, shunt)

    def _grid(self, strain: Array, more: float) -> Array:
        torn = ~np.isfinite(strain)
        grid = self.resistance * (1 + self.gain * np.where(torn, 0.0, strain) + more)
        return np.where(torn, OPEN, grid)


FREE = Plug()
CABLE_6 = Cable(0.77)  # 6 m
PLUGS: tuple[Plug, ...] = (
    Plug(Wiring.FULL_6, "force", 350.0, -1.3e-5, 2e-3 / 25e3, CABLE_6),
    Plug(Wiring.FULL_6, "extension", 350.0, 2.1e-5, 2e-3 / (10e-3 / 50e-3), Cable(0.39)),
    Plug(Wiring.QUARTER_3, "gauge", 350.0, 1.52e-4, 2.08, CABLE_6),
    Plug(Wiring.QUARTER_3, "gauge", 350.0, -0.87e-4, 2.08, CABLE_6),
    FREE, FREE, FREE, FREE,
)  # fmt: skip
# The second amplifier: a gauge on the back face, and a load cell in line with the first.
SECOND_PLUGS: tuple[Plug, ...] = (
    Plug(Wiring.QUARTER_3, "gauge", 350.0, 0.41e-4, 2.08, CABLE_6),
    Plug(Wiring.FULL_6, "force", 350.0, 0.9e-5, 2e-3 / 10e3, CABLE_6),
    FREE, FREE, FREE, FREE, FREE, FREE,
)  # fmt: skip
# The fork's: a rosette at the crown, the axle's load cell, a bending pair, a gauge far away.
FORK_PLUGS: tuple[Plug, ...] = (
    Plug(Wiring.QUARTER_3, "R1a", 350.0, 0.62e-4, 2.08, CABLE_6),
    Plug(Wiring.QUARTER_3, "R1b", 350.0, -1.14e-4, 2.08, CABLE_6),
    Plug(Wiring.QUARTER_3, "R1c", 350.0, 0.93e-4, 2.08, CABLE_6),
    Plug(Wiring.FULL_6, "force", 350.0, 1.7e-5, 2e-3 / 10e3, CABLE_6),
    Plug(Wiring.HALF_3, "B1", 350.0, -0.8e-4, 2.05, CABLE_6),
    Plug(Wiring.QUARTER_2, "G4", 120.0, 0.35e-4, 2.05, Cable(12 * 0.128)),
    FREE, FREE,
)  # fmt: skip
