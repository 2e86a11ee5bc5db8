"""What a person puts on sensors to calibrate them, and what real cells make of it.

Weights on a stack, a gauge block under a clip: added to whatever a sensor feels of its bench. A
cell is bent a little, lags a little behind loads that fall, and creeps under one that stays.
"""

import math
from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import NDArray

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
    """

    source: str
    capacity: float
    scale: float = 0.0
    bend: float = 0.0
    loop: float = 0.0
    creep: float = 0.0
    _lag: float = 0.0  # -1 rising to 1 falling
    _crept: float = 0.0
    _last: float = 0.0

    def reset(self) -> None:
        self._lag = self._crept = self._last = 0.0

    def feels(self, load: Array) -> Array:
        """What it takes the load for, instant by instant."""
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
        off = self.scale * load + (bent + looped) * self.capacity + self.creep * crept
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
            elif source in felt:
                felt[source] = felt[source] + more
        felt |= {name: cell.feels(force) for name, cell in self.cells.items()}
        return replace(state, force=force, felt=felt)

    def _settling(self, source: str, value: float, instants: int) -> Array:
        there = self._there.get(source, 0.0)
        passed = np.exp(-STEP * np.arange(1, instants + 1) / SETTLES_IN)
        found = value + (there - value) * passed
        self._there[source] = float(found[-1])
        return np.asarray(found)


def fork_cells() -> dict[str, Cell]:
    """The axle's load cell, which is to be calibrated, and the reference in series with it."""
    return {
        "axle cell": Cell("force", 10e3, scale=3.6e-4, bend=6e-5, loop=1.5e-4, creep=4e-5),
        "reference cell": Cell("force", 10e3, scale=5e-5, bend=1e-5, loop=2e-5, creep=1e-5),
    }
