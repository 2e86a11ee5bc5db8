"""Minimum and maximum over groups of samples, so that a plot draws what it has pixels for."""

from dataclasses import dataclass, field

import numba
import numpy as np
from numpy.typing import NDArray

from yoke_core.checks import positive

Samples = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Envelope:
    """Lowest and highest of each group, both of shape (channels, groups)."""

    low: Samples
    high: Samples


NONE = (np.inf, -np.inf)  # lowest and highest of nothing
VECTOR = 16  # samples that are folded at once, where a group has so many


@numba.njit(cache=True, nogil=True)
def _widen(low, high, c, start, end, lo, hi):  # type: ignore[no-untyped-def]
    """(lowest, highest) of ``lo``, ``hi`` and a stretch; NaN wins no comparison."""
    for i in range(start, end):  # in this form the compiler makes vectors of it
        a, b = low[c, i], high[c, i]
        lo = a if a < lo else lo
        hi = b if b > hi else hi
    return lo, hi


@numba.njit(cache=True, nogil=True)
def _known(lo, hi):  # type: ignore[no-untyped-def]
    """NaN where a group had nothing but NaN."""
    return (lo, hi) if lo <= hi else (np.float32(np.nan), np.float32(np.nan))


@numba.njit(cache=True, nogil=True)
def _fold(low, high, run, count, factor, out):  # type: ignore[no-untyped-def]
    """Fold (channels, n) into groups of ``factor``, starting ``count`` into the first one."""
    channels, samples = low.shape
    least, most = np.float32(np.inf), np.float32(-np.inf)
    groups = (count + samples) // factor
    for c in range(channels):
        start, end = 0, min(factor - count, samples)
        lo, hi = _widen(low, high, c, start, end, run[0, c], run[1, c])
        for g in range(groups):
            out[0, c, g], out[1, c, g] = _known(lo, hi)
            start, end = end, min(end + factor, samples)
            lo, hi = _widen(low, high, c, start, end, least, most)
        run[0, c], run[1, c] = lo, hi


@numba.njit(cache=True, nogil=True)
def _has_nan(bits):  # type: ignore[no-untyped-def]
    """Whether one of these float32, read as int32, is NaN; as numbers they tell it slower."""
    most = np.int32(0)
    for c in range(len(bits)):
        for i in range(bits.shape[1]):
            most = max(most, bits[c, i] & np.int32(0x7FFFFFFF))
    return most > np.int32(0x7F800000)


@numba.njit(cache=True, nogil=True, fastmath={"nnan", "nsz"})
def _ends(group):  # type: ignore[no-untyped-def]
    """(lowest, highest) of `VECTOR` samples none of which is NaN: no comparison waits for one."""
    lo = hi = group[0]
    for i in range(VECTOR):
        lo, hi = min(lo, group[i]), max(hi, group[i])
    return lo, hi


@numba.njit(cache=True, nogil=True)
def _fold_at_once(samples, run, count, out):  # type: ignore[no-untyped-def]
    """As `_fold` by `VECTOR`, of samples none of which is NaN."""
    least, most = np.float32(np.inf), np.float32(-np.inf)
    groups = out.shape[2]
    for c in range(len(samples)):
        end = min(VECTOR - count, samples.shape[1])
        lo, hi = _widen(samples, samples, c, 0, end, run[0, c], run[1, c])
        if groups:
            out[0, c, 0], out[1, c, 0] = lo, hi
            for g in range(1, groups):
                out[0, c, g], out[1, c, g] = _ends(samples[c, end : end + VECTOR])
                end += VECTOR
            lo, hi = _widen(samples, samples, c, end, samples.shape[1], least, most)
        run[0, c], run[1, c] = lo, hi


@dataclass(slots=True)
class EnvelopeFolder:
    """Folds a stream block by block; equal to `envelope` for any block sizes.

    Parameters
    ----------
    channels : int
    factor : int
        Samples (or finer groups) in one group.
    """

    channels: int
    factor: int
    _count: int = 0
    _run: Samples = field(init=False)  # lowest and highest of the group begun

    def __post_init__(self) -> None:
        positive("factor", self.factor)
        self._run = np.empty((2, self.channels), np.float32)
        self._begin()

    def _begin(self) -> None:
        self._count = 0
        self._run[0], self._run[1] = NONE

    def push(self, low: Samples, high: Samples) -> Envelope:
        """Take (channels, n) more, give the groups that became complete.

        Samples go in as both ``low`` and ``high``; finer groups as their own pair.
        """
        groups = (self._count + low.shape[1]) // self.factor
        out = np.empty((2, self.channels, groups), np.float32)
        if low is high and self.factor == VECTOR and not _has_nan(low.view(np.int32)):
            _fold_at_once(low, self._run, self._count, out)
        else:
            _fold(low, high, self._run, self._count, self.factor, out)
        self._count = (self._count + low.shape[1]) % self.factor
        return Envelope(out[0], out[1])

    def finish(self) -> Envelope:
        """Give the last, incomplete group (none if the stream ended on a full one)."""
        groups = 1 if self._count else 0
        known = np.where(self._run[0] <= self._run[1], self._run, np.float32(np.nan))
        last = np.repeat(known[:, :, None], groups, axis=2)
        self._begin()
        return Envelope(last[0], last[1])


def envelope(samples: Samples, factor: int) -> Envelope:
    """Envelope of whole arrays of shape (channels, n); the last group may be short."""
    folder = EnvelopeFolder(samples.shape[0], factor)
    full = folder.push(samples, samples)
    rest = folder.finish()
    return Envelope(
        np.concatenate([full.low, rest.low], axis=1), np.concatenate([full.high, rest.high], axis=1)
    )
