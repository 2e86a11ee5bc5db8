"""Minimum and maximum over groups of samples, for plots with fewer pixels than samples."""

from dataclasses import dataclass, field

import numba
import numpy as np
from numpy.typing import NDArray

from yoke_core.arrays import Signals
from yoke_core.checks import positive

Samples = NDArray[np.float32]


@dataclass(frozen=True, slots=True)
class Envelope:
    """Lowest and highest of each group, both of shape (channels, groups)."""

    low: Signals
    high: Signals


NONE = (np.inf, -np.inf)  # lowest and highest of nothing
VECTOR = 16  # samples that are folded at once, where a group has so many
STRETCH = 256  # groups that are folded together, so that they stay in the cache
MAX_RANK = np.float32(np.inf).view(np.int32)  # the rank of float32's infinity,
MIN_RANK = ~MAX_RANK  # and of the negative one


@numba.njit(cache=True, nogil=True)
def _widen(low, high, c, start, end, lo, hi):  # type: ignore[no-untyped-def]
    """(lowest, highest) of ``lo``, ``hi`` and a segment; NaN wins no comparison."""
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


# Samples are folded by `VECTOR` as integers in the order of their values, halved four times in
# loops so plain that the compiler makes vectors of them.


@numba.njit(cache=True, nogil=True)
def _ranks(bits, ranks):  # type: ignore[no-untyped-def]
    """Of float32 read as int32 integers in their order, NaN outermost; and back again."""
    for i in range(len(bits)):
        ranks[i] = bits[i] ^ ((bits[i] >> 31) & np.int32(0x7FFFFFFF))


@numba.njit(cache=True, nogil=True)
def _halve(low, high, lower, higher):  # type: ignore[no-untyped-def]
    for i in range(len(lower)):
        lower[i] = min(low[2 * i], low[2 * i + 1])
    for i in range(len(higher)):
        higher[i] = max(high[2 * i], high[2 * i + 1])


@numba.njit(cache=True, nogil=True)
def _fold_segment(bits, low, high, work):  # type: ignore[no-untyped-def]
    """Fold at most `STRETCH` whole groups; False where NaN is among them: it has no order."""
    n = len(low)
    ranks = work[0, : 16 * n]
    _ranks(bits, ranks)
    lows, highs = work[1, : 8 * n], work[2, : 8 * n]
    _halve(ranks, ranks, lows, highs)
    fours = work[3, : 4 * n], work[4, : 4 * n]
    _halve(lows, highs, fours[0], fours[1])
    _halve(fours[0], fours[1], lows[: 2 * n], highs[: 2 * n])
    lowest, highest = fours[0][:n], fours[1][:n]
    _halve(lows, highs, lowest, highest)
    if lowest.min() < MIN_RANK or highest.max() > MAX_RANK:
        return False
    _ranks(lowest, low)
    _ranks(highest, high)
    return True


@numba.njit(cache=True, nogil=True)
def _fold_samples(samples, run, count, out, bits, out_bits):  # type: ignore[no-untyped-def]
    """As `_fold` by `VECTOR` of at least one group; ``bits`` are the same read as int32."""
    least, most = np.float32(np.inf), np.float32(-np.inf)
    channels, groups = out.shape[1:]
    work = np.empty((5, STRETCH * VECTOR), np.int32)
    for c in range(channels):
        start, end = 0, VECTOR - count
        lo, hi = _widen(samples, samples, c, start, end, run[0, c], run[1, c])
        out[0, c, 0], out[1, c, 0] = _known(lo, hi)
        for first in range(1, groups, STRETCH):
            last = min(first + STRETCH, groups)
            start, end = end, end + (last - first) * VECTOR
            low, high = out_bits[0, c, first:last], out_bits[1, c, first:last]
            if not _fold_segment(bits[c, start:end], low, high, work):
                for g in range(first, last):
                    at = start + (g - first) * VECTOR
                    lo, hi = _widen(samples, samples, c, at, at + VECTOR, least, most)
                    out[0, c, g], out[1, c, g] = _known(lo, hi)
        run[0, c], run[1, c] = _widen(samples, samples, c, end, samples.shape[1], least, most)


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

    def push(self, low: Signals, high: Signals) -> Envelope:
        """Take (channels, n) more, give the groups that became complete.

        Samples go in as both ``low`` and ``high``; finer groups as their own pair. float64 is
        rounded to float32.
        """
        is_samples = low is high
        low = low.astype(np.float32, copy=False)
        high = low if is_samples else high.astype(np.float32, copy=False)
        groups = (self._count + low.shape[1]) // self.factor
        out = np.empty((2, self.channels, groups), np.float32)
        if is_samples and self.factor == VECTOR and groups:
            bits, out_bits = low.view(np.int32), out.view(np.int32)
            _fold_samples(low, self._run, self._count, out, bits, out_bits)
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


def envelope(samples: Signals, factor: int) -> Envelope:
    """Envelope of whole arrays.

    Parameters
    ----------
    samples : (channels, n), float32
    factor : int
        Samples to a pair of lowest and highest.

    Returns
    -------
    Envelope
        Arrays (channels, ceil(n / factor)); the last group may be short. NaN where a group has no
        value.

    Examples
    --------
    >>> found = envelope(np.array([[1, 5, 2, 0, 3]], np.float32), 4)
    >>> found.low.tolist(), found.high.tolist()
    ([[0.0, 3.0]], [[5.0, 3.0]])
    """
    folder = EnvelopeFolder(samples.shape[0], factor)
    full = folder.push(samples, samples)
    rest = folder.finish()
    return Envelope(
        np.concatenate([full.low, rest.low], axis=1), np.concatenate([full.high, rest.high], axis=1)
    )
