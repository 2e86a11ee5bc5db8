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


@numba.njit(cache=True, nogil=True)
def _fold(low, high, run_low, run_high, count, factor, out_low, out_high):  # type: ignore[no-untyped-def]
    """Fold (channels, n) into groups of ``factor``, starting ``count`` into the first one.

    NaN never wins a comparison, so a group is NaN only where all its samples are.
    """
    channels, samples = low.shape
    for c in range(channels):
        lo, hi, filled, group = run_low[c], run_high[c], count, 0
        for i in range(samples):
            if filled == 0 or low[c, i] < lo or np.isnan(lo):
                lo = low[c, i]
            if filled == 0 or high[c, i] > hi or np.isnan(hi):
                hi = high[c, i]
            filled += 1
            if filled == factor:
                out_low[c, group], out_high[c, group] = lo, hi
                group += 1
                filled = 0
        run_low[c], run_high[c] = lo, hi


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
    _low: Samples = field(init=False)
    _high: Samples = field(init=False)

    def __post_init__(self) -> None:
        positive("factor", self.factor)
        self._low = np.zeros(self.channels, np.float32)
        self._high = np.zeros(self.channels, np.float32)

    def push(self, low: Samples, high: Samples) -> Envelope:
        """Take (channels, n) more, give the groups that became complete.

        Samples go in as both ``low`` and ``high``; finer groups as their own pair.
        """
        groups = (self._count + low.shape[1]) // self.factor
        out = Envelope(
            np.empty((self.channels, groups), np.float32),
            np.empty((self.channels, groups), np.float32),
        )
        _fold(low, high, self._low, self._high, self._count, self.factor, out.low, out.high)
        self._count = (self._count + low.shape[1]) % self.factor
        return out

    def finish(self) -> Envelope:
        """Give the last, incomplete group (none if the stream ended on a full one)."""
        groups = 1 if self._count else 0
        self._count = 0
        return Envelope(
            self._low[:, None][:, :groups].copy(), self._high[:, None][:, :groups].copy()
        )


def envelope(samples: Samples, factor: int) -> Envelope:
    """Envelope of whole arrays of shape (channels, n); the last group may be short."""
    folder = EnvelopeFolder(samples.shape[0], factor)
    full = folder.push(samples, samples)
    rest = folder.finish()
    return Envelope(
        np.concatenate([full.low, rest.low], axis=1), np.concatenate([full.high, rest.high], axis=1)
    )
