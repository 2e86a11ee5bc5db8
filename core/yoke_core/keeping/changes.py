"""Samples at which something has changed by more than a step."""

import numba
import numpy as np
from numpy.typing import ArrayLike, NDArray

from yoke_core.errors import SignalError

Indices = NDArray[np.int64]


@numba.njit(cache=True, nogil=True)
def _changed(values, at, steps, longest, last, kept_at, out):  # type: ignore[no-untyped-def]
    count = 0
    for i in range(values.shape[1]):
        keep = kept_at[0] < 0 or at + i - kept_at[0] >= longest
        for c in range(values.shape[0]):
            keep = keep or abs(values[c, i] - last[c]) >= steps[c]
        if keep:
            last[:] = values[:, i]
            kept_at[0] = at + i
            out[count] = at + i
            count += 1
    return count


class Changes:
    """Finds the samples at which any of some channels has moved by its step since the last one
    that was kept, or the longest interval is over; equal for any division into blocks.

    Parameters
    ----------
    steps : array_like, shape (channels,)
        Above zero.
    longest : int
        Samples after which one is kept at any rate.

    Raises
    ------
    SignalError
        For a step that is not above zero.

    Examples
    --------
    >>> Changes([1.0], longest=4).push([[0, 0.5, 1, 1.5, 1.9, 1.9, 1.9]]).tolist()
    [0, 2, 6]
    """

    def __init__(self, steps: ArrayLike, longest: int) -> None:
        self._steps = np.array(steps, dtype=float)
        if not (np.isfinite(self._steps).all() and (self._steps > 0).all()):
            raise SignalError("step", "Each step must be above zero.")
        self._longest = max(1, longest)
        self._last = np.full(len(self._steps), np.nan)
        self._kept_at = np.array([-1], np.int64)
        self._at = 0

    @property
    def state(self) -> list[float]:
        """The state to resume from; may hold what is not finite."""
        return [float(self._at), float(self._kept_at[0]), *(float(v) for v in self._last)]

    @state.setter
    def state(self, state: list[float]) -> None:
        self._at, self._kept_at[0] = int(state[0]), int(state[1])
        self._last[:] = state[2:]

    @property
    def at(self) -> int:
        """The number of the sample that comes next."""
        return self._at

    def restart(self) -> None:
        """Samples are missing: the next one is kept."""
        self._kept_at[0] = -1

    def push(self, values: ArrayLike) -> Indices:
        """The samples to keep among (channels, n) more, counted from the first ever pushed."""
        found = np.ascontiguousarray(values, dtype=float)
        out = np.empty(found.shape[1], np.int64)
        state = (self._last, self._kept_at)
        count = _changed(found, self._at, self._steps, self._longest, *state, out)
        self._at += found.shape[1]
        return out[:count]
