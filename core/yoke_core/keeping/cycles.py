"""Counting the cycles of a signal, with each of its samples."""

import numba
import numpy as np
from numpy.typing import ArrayLike, NDArray

from yoke_core.errors import SignalError

Array = NDArray[np.float64]


@numba.njit(cache=True, nogil=True)
def _count(values, gate, state, counts):  # type: ignore[no-untyped-def]
    """``state``: whether it rises (else falls), the newest extreme, cycles."""
    for i in range(values.size):
        x = values[i]
        if np.isfinite(x):
            if np.isnan(state[1]):
                state[1] = x
            elif state[0] > 0:
                state[1] = max(state[1], x)
                if state[1] - x > gate:
                    state[0], state[1] = -1.0, x
            else:
                state[1] = min(state[1], x)
                if x - state[1] > gate:
                    state[0], state[1] = 1.0, x
                    state[2] += 1
        counts[i] = state[2]


class CycleCounter:
    """Counts a cycle each time that a signal, having fallen by more than a gate, has risen by
    more than it. Samples without a value say nothing.

    >>> CycleCounter(0.5).push([0, 1, 0, 1, 0, 0.9]).tolist()
    [0.0, 1.0, 1.0, 2.0, 2.0, 3.0]
    """

    def __init__(self, gate: float) -> None:
        if not (np.isfinite(gate) and gate > 0):
            raise SignalError("gate", "A gate above zero tells a cycle from noise.")
        self._gate = gate
        self._state = np.array([-1.0, np.nan, 0.0])  # it counts from the first way up

    @property
    def state(self) -> list[float]:
        """The state to resume from; may hold NaN."""
        return [float(v) for v in self._state]

    @state.setter
    def state(self, state: list[float]) -> None:
        self._state[:] = state

    def restart(self) -> None:
        """Samples are missing: what was under way is not known; the count goes on."""
        self._state[:2] = -1.0, np.nan

    def push(self, values: ArrayLike) -> Array:
        """Cycles so far, with each of (n,) samples more."""
        found = np.ascontiguousarray(values, dtype=float)
        counts = np.empty(found.size)
        _count(found, self._gate, self._state, counts)
        return counts
