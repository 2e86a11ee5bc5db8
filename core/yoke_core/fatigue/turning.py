"""Turning points of a history: where it reverses by more than a gate."""

from dataclasses import dataclass, field

import numba
import numpy as np
from numpy.typing import NDArray

from yoke_core.errors import FatigueError

Values = NDArray[np.float32]


@numba.njit(cache=True, nogil=True)
def _turn_at_all(values, start, sign, extreme, points, count):  # type: ignore[no-untyped-def]
    """Every reversal, without branches: noise reverses at every other value, unforeseeably."""
    newest, rising = sign * extreme, sign > 0
    for k in range(start, values.size):
        x = values[k]
        points[count] = newest
        rises, level = x > newest, x == newest
        count += (rises != rising) & (not level)
        rising = rising if level else rises
        newest = x
    sign = np.float32(1.0) if rising else np.float32(-1.0)
    return count, sign, sign * newest


@numba.njit(cache=True, nogil=True)
def _turn(values, gate, state, points):  # type: ignore[no-untyped-def]
    """Append turning points; state is (sign, extreme, other end while the sign is open)."""
    sign, extreme, other = state
    count, i = 0, 0
    while sign == 0 and i < values.size:  # until the first way that is longer than the gate
        x = values[i]
        i += 1
        extreme = x if not x < extreme else extreme  # highest so far
        other = x if not x > other else other  # lowest so far
        if extreme - other > gate:
            sign = np.float32(1.0) if x == extreme else np.float32(-1.0)
            points[count] = other if sign > 0 else extreme
            extreme = sign * x
            count += 1
    if gate == 0 and sign != 0:
        count, sign, extreme = _turn_at_all(values, i, sign, extreme, points, count)
        i = values.size
    for k in range(i, values.size):
        y = sign * values[k]
        if y > extreme:
            extreme = y
        elif extreme - y > gate:
            points[count] = sign * extreme
            count += 1
            sign = -sign
            extreme = -y
    state[0], state[1], state[2] = sign, extreme, other
    return count


@dataclass(slots=True)
class TurningPoints:
    """Finds turning points block by block; equal to `turning_points` for any block sizes.

    Parameters
    ----------
    gate : float
        Ways up to this long are not turned at; not negative.
    """

    gate: float
    _state: Values = field(init=False)

    def __post_init__(self) -> None:
        if not (np.isfinite(self.gate) and self.gate >= 0):
            raise FatigueError(
                "gate",
                f"The gate cannot be {self.gate:g}: ways shorter than it are left out.",
                "Give a gate of zero or more.",
            )
        self._state = np.array([0, np.nan, np.nan], np.float32)

    def push(self, values: Values) -> Values:
        """Take more of the history, give the turning points that are certain now.

        Values without a number (NaN, clipped) are left out.
        """
        values = np.ascontiguousarray(values, np.float32)
        with np.errstate(over="ignore", invalid="ignore"):
            if not np.isfinite(values.sum()):
                values = values[np.isfinite(values)]
        points = np.empty(len(values) + 1, np.float32)
        return points[: _turn(values, np.float32(self.gate), self._state, points)]

    def finish(self) -> Values:
        """The last point of the history, if it had any way longer than the gate."""
        sign, extreme, _ = self._state
        return np.array([sign * extreme] if sign else [], np.float32)


def turning_points(values: Values, gate: float = 0.0) -> Values:
    """Turning points of a whole history, its first and last point among them.

    Parameters
    ----------
    values : array of float32, shape (n,)
    gate : float
        Ways up to this long are not turned at; not negative.

    Returns
    -------
    array of float32
        Empty where the history has no way longer than the gate.

    Raises
    ------
    FatigueError
        For a gate below zero.

    Examples
    --------
    >>> turning_points(np.array([0, 1, 3, 2.9, 4, 1], np.float32), gate=0.5).tolist()
    [0.0, 4.0, 1.0]
    """
    finder = TurningPoints(gate)
    return np.concatenate([finder.push(values), finder.finish()])
