"""Highest and lowest of each cycle, with the samples at which they stand."""

from dataclasses import dataclass

import numba
import numpy as np
from numpy.typing import ArrayLike, NDArray

from yoke_core.errors import SignalError

Indices = NDArray[np.int64]


@numba.njit(cache=True, nogil=True)
def _turn(values, at, gate, state, places, turns):  # type: ignore[no-untyped-def]
    """Appends the samples of certain turns. ``state`` is (sign, extreme, other); ``places`` are
    where those two stand."""
    count = 0
    for i in range(values.size):
        x = values[i]
        if not np.isfinite(x):
            continue
        if state[0] == 0:  # until the first way that is longer than the gate
            if not x < state[1]:
                state[1], places[0] = x, at + i
            if not x > state[2]:
                state[2], places[1] = x, at + i
            if state[1] - state[2] > gate:
                rises = places[0] > places[1]
                turns[count] = places[1] if rises else places[0]
                count += 1
                state[0] = 1.0 if rises else -1.0
                if not rises:
                    state[1], places[0] = state[2], places[1]
            continue
        y, extreme = state[0] * x, state[0] * state[1]
        if y > extreme:
            state[1], places[0] = x, at + i
        elif extreme - y > gate:
            turns[count] = places[0]
            count += 1
            state[0] = -state[0]
            state[1], places[0] = x, at + i
    return count


@dataclass(frozen=True, slots=True)
class FoundTurns:
    """What a block has made certain.

    kept : samples, counted from the first ever pushed, two a cycle, in the order of time
    candidates : samples that may become the next turn
    """

    kept: Indices
    candidates: Indices


class CycleTurns:
    """Finds the two turns of every k-th cycle; equal for any division into blocks.

    Parameters
    ----------
    gate : float
        Ways up to this long are no part of a cycle; above zero.
    every : int
        1 keeps each cycle, 10 the first of each ten.

    Raises
    ------
    SignalError
        For a gate that tells nothing from noise.

    Examples
    --------
    >>> CycleTurns(0.5).push([0, 1, 3, 2.9, 0, 2, 1]).kept.tolist()
    [0, 2, 4, 5]
    """

    def __init__(self, gate: float, every: int = 1) -> None:
        if not (np.isfinite(gate) and gate > 0):
            raise SignalError("gate", "A gate above zero tells a cycle from noise.")
        if every < 1:
            raise SignalError("every", "At most each cycle can be kept.", "Give 1 or more.")
        self._gate, self._every = gate, every
        self._state = np.array([0.0, np.nan, np.nan])
        self._places = np.zeros(2, np.int64)
        self._at = 0  # samples so far
        self._half = -1  # the first turn of a cycle whose second is not certain
        self.cycles = 0  # whole ones so far

    @property
    def state(self) -> list[float]:
        """The state to resume from; may hold NaN."""
        whole = [*self._places, self._at, self._half, self.cycles]
        return [*(float(v) for v in self._state), *(float(v) for v in whole)]

    @state.setter
    def state(self, state: list[float]) -> None:
        self._state[:] = state[:3]
        self._places[:] = [int(v) for v in state[3:5]]
        self._at, self._half, self.cycles = (int(v) for v in state[5:8])

    @property
    def at(self) -> int:
        """The number of the sample that comes next."""
        return self._at

    def restart(self) -> None:
        """Samples are missing: a cycle that was under way is none."""
        self._state[:] = 0.0, np.nan, np.nan
        self._half = -1

    def push(self, values: ArrayLike) -> FoundTurns:
        """Take (n,) samples more; those without a value say nothing."""
        found = np.ascontiguousarray(values, dtype=float)
        turns = np.empty(found.size + 1, np.int64)
        count = _turn(found, self._at, self._gate, self._state, self._places, turns)
        self._at += found.size
        return FoundTurns(self._pair(turns[:count]), self._candidates())

    def _pair(self, turns: Indices) -> Indices:
        """Two turns are a cycle; those of the cycles that are kept."""
        waiting = turns if self._half < 0 else np.concatenate([[self._half], turns])
        whole = len(waiting) // 2
        self._half = int(waiting[-1]) if len(waiting) % 2 else -1
        numbers = self.cycles + np.arange(whole)
        self.cycles += whole
        return waiting[: 2 * whole].reshape(whole, 2)[numbers % self._every == 0].ravel()

    def _candidates(self) -> Indices:
        open_ends = [] if np.isnan(self._state[1]) else [self._places[0]]
        if self._state[0] == 0 and not np.isnan(self._state[2]):
            open_ends.append(self._places[1])
        half = [self._half] if self._half >= 0 else []
        return np.unique(np.array([*half, *open_ends], np.int64))
