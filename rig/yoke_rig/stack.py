"""What a person puts on sensors to calibrate them, and what real cells make of it.

Weights on a stack or on the arm of a torque sensor, a gauge block under a clip: added to what a
sensor feels of its bench. A cell is bent a little, lags a little behind loads that fall, creeps
under one that stays, reads more where it is warm, and otherwise in each position about its axis.
"""

import math
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

from yoke_rig.room import REFERENCE_C, room_celsius
from yoke_rig.state import STEP, State

Array = NDArray[np.float64]
SETTLES_IN = 0.25  # s, time constant of a load that is put on
CREEPS_IN = 40.0  # s


@dataclass(slots=True)
class Cell:
    """A cell that feels ``source`` with errors, each a share of its capacity.

    scale : by which its output is off in all, a share of the load
    bend : by which half the capacity is off the straight line
    loop : by which falling loads read higher at half the capacity
    creep : by which a load that stays reads higher in the end, a share of the load
    warms : by which a load reads higher for each kelvin above `REFERENCE_C`, a share of the load
    turns : by which a load reads higher in the position of 0°, and lower opposite, a share of it
    rotation : its position about its axis, degrees
    """

    source: str
    capacity: float
    scale: float = 0.0
    bend: float = 0.0
    loop: float = 0.0
    creep: float = 0.0
    warms: float = 0.0
    turns: float = 0.0
    rotation: float = 0.0
    _lag: float = 0.0  # -1 rising to 1 falling
    _crept: float = 0.0
    _last: float = 0.0

    def reset(self) -> None:
        self._lag = self._crept = self._last = self.rotation = 0.0

    def feels(self, load: Array, celsius: Array | float = REFERENCE_C) -> Array:
        """What it takes the load for, instant by instant, in a room of this temperature."""
        share = load / self.capacity
        lag, crept = np.empty(load.size), np.empty(load.size)
        keep = math.exp(-STEP / CREEPS_IN)
        for i, value in enumerate(load.tolist()):
            turn = (self._last - value) / (0.2 * self.capacity)
            self._lag = min(max(self._lag + turn, -1.0), 1.0)
            self._crept = value + (self._crept - value) * keep
            self._last = value
            lag[i], crept[i] = self._lag, self._crept
        bent = 4 * self.bend * share * (1 - np.abs(share))
        looped = 4 * self.loop * np.abs(share) * (1 - np.abs(share)) * (lag + 1) / 2
        turned = self.turns * math.cos(math.radians(self.rotation))
        scale = self.scale + turned + self.warms * (celsius - REFERENCE_C)
        off = scale * load + (bent + looped) * self.capacity + self.creep * crept
        return np.asarray(load + off)


@dataclass(slots=True)
class Stack:
    """Loads by what is to feel them, and the cells of a bench by the source that they make."""

    cells: dict[str, Cell] = field(default_factory=dict)
    _wanted: dict[str, float] = field(default_factory=dict)
    _there: dict[str, float] = field(default_factory=dict)

    def put(self, source: str, value: float) -> None:
        """Have a load (SI of the source) put on; 0 takes it off."""
        feels = self.cells[source].source if source in self.cells else source
        self._wanted[feels] = value

    def turn(self, source: str, degrees: float) -> None:
        """Have a cell turned about its axis; raises ValueError where there is none."""
        if source not in self.cells:
            raise ValueError("nothing there can be turned")
        self.cells[source].rotation = degrees

    def reset(self) -> None:
        self._wanted.clear()
        self._there.clear()
        for cell in self.cells.values():
            cell.reset()

    def on(self, state: State) -> State:
        """What sensors feel with all that was put on."""
        felt = dict(state.felt)
        force = state.force
        for source, value in self._wanted.items():
            more = self._settling(source, value, state.force.size)
            if source == "force":
                force = force + more
            else:
                felt[source] = felt.get(source, 0.0) + more
        loads = {"force": force, **felt}
        rest, celsius = np.zeros(force.size), room_celsius(state.seconds)
        felt |= {
            name: cell.feels(loads.get(cell.source, rest), celsius)
            for name, cell in self.cells.items()
        }
        return replace(state, force=force, felt=felt)

    def _settling(self, source: str, value: float, instants: int) -> Array:
        there = self._there.get(source, 0.0)
        passed = np.exp(-STEP * np.arange(1, instants + 1) / SETTLES_IN)
        found = value + (there - value) * passed
        self._there[source] = float(found[-1])
        return np.asarray(found)


def fork_cells() -> dict[str, Cell]:
    """The axle's load cell, which is to be calibrated, the reference in series with it, and a
    torque sensor on whose arm weights hang."""
    return {
        "axle cell": Cell("force", 10e3, 3.6e-4, 6e-5, 1.5e-4, 4e-5, warms=2e-5, turns=3e-5),
        "reference cell": Cell("force", 10e3, 5e-5, 1e-5, 2e-5, 1e-5, warms=1e-5, turns=1e-5),
        "torque cell": Cell("torque", 200.0, -4e-4, 8e-5, 2e-4, 5e-5, warms=2e-5, turns=4e-5),
    }
