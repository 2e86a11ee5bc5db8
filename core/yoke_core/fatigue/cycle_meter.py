"""Counting the cycles of a regular load while it runs, with the extremes of the last one."""

import numba
import numpy as np
from numpy.typing import ArrayLike, NDArray

from yoke_core.errors import FatigueError

GATE = 0.25  # of the range, from either end


@numba.njit(cache=True, nogil=True)
def _count(values, gates, state):  # type: ignore[no-untyped-def]
    for value in values:
        if not np.isfinite(value):
            continue
        state[2], state[3] = min(state[2], value), max(state[3], value)
        if state[0] and value >= gates[1]:
            state[0] = 0.0
            state[1] += 1
            state[4], state[5] = state[2], state[3]
            state[2] = state[3] = value
        elif value <= gates[0]:
            state[0] = 1.0


class CycleMeter:
    """Counts a cycle each time that the load, having been low, is high again.

    Parameters
    ----------
    lowest, highest : float
        Between which the load is meant to swing; the gates lie a quarter of that inside, so
        that neither noise nor a load that falls a little short is miscounted.

    Feeding blocks of any size gives the same answer as feeding the whole array. Samples without
    a value (NaN, or infinite where they clipped) say nothing.
    """

    def __init__(self, lowest: float, highest: float) -> None:
        self._gates = _gates_of(lowest, highest)
        # was low, cycles, extremes since the last one, extremes of the last one
        self._state = np.array([0.0, 0.0, np.inf, -np.inf, np.nan, np.nan])

    def aim(self, lowest: float, highest: float) -> None:
        """From now on the load is meant to swing between these; cycles are counted on."""
        self._gates = _gates_of(lowest, highest)
        self._state[0], self._state[2:4] = 0.0, (np.inf, -np.inf)

    @property
    def state(self) -> list[float]:
        """The state to resume from; may hold infinities and NaN."""
        return [float(v) for v in self._state]

    @state.setter
    def state(self, state: list[float]) -> None:
        self._state[:] = state

    @property
    def cycles(self) -> int:
        return int(self._state[1])

    @property
    def held(self) -> tuple[float, float]:
        """Lowest and highest of the last whole cycle; NaN before there is one."""
        return float(self._state[4]), float(self._state[5])

    def push(self, load: ArrayLike) -> int:
        """Take samples more; gives the cycles so far."""
        _count(np.asarray(load, dtype=float), self._gates, self._state)
        return self.cycles


def _gates_of(lowest: float, highest: float) -> NDArray[np.float64]:
    if not lowest < highest:
        raise FatigueError("lowest", "The lowest load must lie below the highest.")
    inside = GATE * (highest - lowest)
    return np.array([lowest + inside, highest - inside])
