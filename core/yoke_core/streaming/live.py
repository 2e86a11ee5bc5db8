"""Live figures of some channels: what a screen shows of a block, with extremes and a window."""

import numba
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
# Blocks of a tenth of a second over which there are statistics. The shortest gives mean and
# deviation, each longer one lowest and highest too.
WINDOWS = (10, 100, 600)
# Reading, raw, lowest, highest, clipped share, then the statistics.
FIGURES = 7 + 4 * (len(WINDOWS) - 1)


@numba.njit(cache=True, nogil=True)
def _over(kept, filled, count):  # type: ignore[no-untyped-def]
    """Mean, deviation, lowest and highest of the newest ``count`` blocks of one channel."""
    size = kept.shape[0]
    middle, low, high = 0.0, np.nan, np.nan
    for b in range(filled - count, filled):
        block = kept[b % size]
        middle += block[0] / count
        low, high = np.fmin(low, block[2]), np.fmax(high, block[3])
    square = 0.0
    for b in range(filled - count, filled):
        block = kept[b % size]
        square += (block[1] ** 2 + (block[0] - middle) ** 2) / count
    return middle, np.sqrt(square), low, high


@numba.njit(cache=True, nogil=True)
def _figures(  # type: ignore[no-untyped-def]
    scaled,
    rows,
    turned,
    steepness,
    raw,
    clipped,
    samples,
    deviation,
    peaks,
    blocks,
    kept,
    filled,
    table,
):
    channels, width = scaled.shape
    for c in range(channels):
        row = rows[c]
        for i in range(1, width, 3):
            low, high = scaled[c, i], scaled[c, i + 1]
            if turned[c]:
                low, high = high, low
            table[c, FIGURES + i - 1], table[c, FIGURES + i] = low, high
            table[c, FIGURES + i + 1] = scaled[c, i + 2]
            for value in (low, high):
                if value < peaks[c, 0] or (np.isnan(peaks[c, 0]) and not np.isnan(value)):
                    peaks[c, 0] = value
                if value > peaks[c, 1] or (np.isnan(peaks[c, 1]) and not np.isnan(value)):
                    peaks[c, 1] = value
        newest = kept[(filled - 1) % kept.shape[0], c]
        newest[0], newest[1] = scaled[c, 0], deviation[row] * steepness[c]
        newest[2], newest[3] = np.nan, np.nan
        for i in range(1, width, 3):
            newest[2] = np.fmin(newest[2], min(scaled[c, i], scaled[c, i + 1]))
            newest[3] = np.fmax(newest[3], max(scaled[c, i], scaled[c, i + 1]))
        table[c, 0], table[c, 1] = scaled[c, 0], raw[row]
        table[c, 2], table[c, 3] = peaks[c, 0], peaks[c, 1]
        table[c, 4] = clipped[row] / samples
        for w in range(len(blocks)):
            found = _over(kept[:, c], filled, min(filled, blocks[w]))
            at = 5 if w == 0 else 3 + 4 * w
            table[c, at], table[c, at + 1] = found[0], found[1]
            if w > 0:
                table[c, at + 2], table[c, at + 3] = found[2], found[3]


class LiveFigures:
    """Keeps extremes since reset, and statistics over the newest blocks.

    Parameters
    ----------
    rows : (channels,), where each channel stands among the signals
    turned : (channels,), whether a channel's lowest signal is its highest quantity
    steepness : (channels,), quantity by signal, without its sign
    windows : how many blocks each window holds, the shortest first
    """

    def __init__(
        self,
        rows: NDArray[np.intp],
        turned: NDArray[np.bool_],
        steepness: Array,
        windows: tuple[int, ...] = WINDOWS,
    ) -> None:
        self.peaks: Array = np.full((len(turned), 2), np.nan)
        self._rows, self._turned, self._steepness = rows, turned, steepness
        self._windows = np.array(windows)
        self._kept = np.zeros((max(windows), len(turned), 4))
        self._filled = 0

    def take(
        self,
        scaled: Array,
        raw: Array,
        clipped: NDArray[np.int64],
        samples: int,
        deviation: Array,
        table: NDArray[np.float32],
    ) -> None:
        """Fill ``table`` with the figures of one block more.

        Parameters
        ----------
        scaled : (channels, 1 + 3 * bins), quantity: mean, then lowest, highest, last by bin
        raw, clipped, deviation : (signals,), mean, clipped samples, deviation of the signal
        samples : int
            In the block.
        table : (channels, FIGURES + 3 * bins)
            Gets reading, raw, lowest and highest since reset, share of clipped samples, mean
            and deviation over the shortest window, mean, deviation, lowest and highest over
            each longer one, then lowest, highest, last by bin.

        Clipped samples have no value: NaN neither sets an extreme nor moves one.
        """
        self._filled += 1
        _figures(
            scaled,
            self._rows,
            self._turned,
            self._steepness,
            raw,
            clipped,
            samples,
            deviation,
            self.peaks,
            self._windows,
            self._kept,
            self._filled,
            table,
        )
