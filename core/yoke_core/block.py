"""One pass over a block of counts: the form that is stored and the figures that are shown."""

from dataclasses import dataclass

import numba
import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True, slots=True)
class BlockDigest:
    """What is known of a block; arrays by channel.

    ratios : (channels, samples), V/V, channel by channel
    low, high, last : (channels, bins), V/V, of each bin of about equal length
    mean, deviation : (channels,), V/V
    clipped : (channels,), whether any sample stood at the converter's rail
    """

    ratios: NDArray[np.float32]
    low: NDArray[np.float32]
    high: NDArray[np.float32]
    last: NDArray[np.float32]
    mean: NDArray[np.float64]
    deviation: NDArray[np.float64]
    clipped: NDArray[np.bool_]


@numba.njit(cache=True, nogil=True)
def _digest(counts, scale, rail, ratios, low, high, last, mean, deviation, clipped):  # type: ignore[no-untyped-def]
    samples, channels = counts.shape
    bins = low.shape[1]
    for c in range(channels):
        total, squares, at_rail = 0.0, 0.0, False
        for b in range(bins):
            start, end = b * samples // bins, (b + 1) * samples // bins
            lowest = highest = counts[start, c]
            for i in range(start, end):
                count = counts[i, c]
                ratios[c, i] = count * scale[c]
                lowest, highest = min(lowest, count), max(highest, count)
                total += count
                squares += float(count) * count
            low[c, b], high[c, b] = lowest * scale[c], highest * scale[c]
            last[c, b] = counts[end - 1, c] * scale[c]
            at_rail = at_rail or highest >= rail or lowest <= -rail
        average = total / samples
        mean[c] = average * scale[c]
        deviation[c] = np.sqrt(max(squares / samples - average * average, 0.0)) * scale[c]
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
        Bins per block for display, at most the number of samples.
    """
    samples, channels = counts.shape
    bins = min(bins, samples)
    found = BlockDigest(
        np.empty((channels, samples), np.float32),
        np.empty((channels, bins), np.float32),
        np.empty((channels, bins), np.float32),
        np.empty((channels, bins), np.float32),
        np.empty(channels),
        np.empty(channels),
        np.empty(channels, np.bool_),
    )
    _digest(
        counts, full_scale.astype(np.float64) / rail, rail, found.ratios, found.low, found.high,
        found.last, found.mean, found.deviation, found.clipped,
    )  # fmt: skip
    return found
