"""One pass over a block of counts: the form that is stored and the figures that are shown."""

from dataclasses import dataclass

import numba
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class BlockDigest:
    """What is known of a block, by channel; all ratios in V/V.

    ratios : (channels, samples), float32, channel by channel
    shown : (channels, 1 + 3 * bins): the mean, then lowest, highest and last of each of the
        bins, which are of about equal length
    deviation : (channels,)
    clipped : (channels,), whether any sample stood at the converter's rail
    """

    ratios: NDArray[np.float32]
    shown: Array
    deviation: Array
    clipped: NDArray[np.bool_]

    @property
    def mean(self) -> Array:
        return self.shown[:, 0]

    @property
    def low(self) -> Array:
        return self.shown[:, 1::3]

    @property
    def high(self) -> Array:
        return self.shown[:, 2::3]


@numba.njit(cache=True, nogil=True)
def _digest(counts, full_scale, rail, ratios, shown, deviation, clipped):  # type: ignore[no-untyped-def]
    samples, channels = counts.shape
    bins = shown.shape[1] // 3
    for c in range(channels):
        scale = float(full_scale[c]) / rail
        total, squares, at_rail = 0.0, 0.0, False
        for b in range(bins):
            start, end = b * samples // bins, (b + 1) * samples // bins
            lowest = highest = counts[start, c]
            for i in range(start, end):
                count = counts[i, c]
                ratios[c, i] = count * scale
                lowest, highest = min(lowest, count), max(highest, count)
                total += count
                squares += float(count) * count
            shown[c, 1 + 3 * b] = lowest * scale
            shown[c, 2 + 3 * b] = highest * scale
            shown[c, 3 + 3 * b] = counts[end - 1, c] * scale
            at_rail = at_rail or highest >= rail or lowest <= -rail
        average = total / samples
        shown[c, 0] = average * scale
        deviation[c] = np.sqrt(max(squares / samples - average * average, 0.0)) * scale
        clipped[c] = at_rail


def digest_block(
    counts: NDArray[np.int32], full_scale: NDArray[np.float32], rail: int, bins: int
) -> BlockDigest:
    """Turn interleaved counts into ratios and figures.

    Parameters
    ----------
    counts : (samples, channels), int32, at least one sample
    full_scale : (channels,), V/V at the count ``rail``
    rail : int
        Count at full scale; a sample there or beyond is clipped.
    bins : int
        Bins per block for display; no more than samples are made.
    """
    samples, channels = counts.shape
    found = BlockDigest(
        np.empty((channels, samples), np.float32),
        np.empty((channels, 1 + 3 * min(bins, samples))),
        np.empty(channels),
        np.empty(channels, np.bool_),
    )
    _digest(counts, full_scale, rail, found.ratios, found.shown, found.deviation, found.clipped)
    return found
