"""Live figures of some channels: what a screen shows of a block, with extremes and a window."""

import numba
import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
FIGURES = 7  # reading, raw, lowest, highest, clipped share, mean, deviation


@numba.njit(cache=True, nogil=True)
def _figures(  # type: ignore[no-untyped-def]
    scaled, rows, turned, steepness, raw, clipped, samples, deviation, peaks, window, filled, table
):
    channels, width = scaled.shape
    blocks = min(filled, window.shape[0])
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
        place = (filled - 1) % window.shape[0]
        window[place, c, 0], window[place, c, 1] = scaled[c, 0], deviation[row] * steepness[c]
        middle = 0.0
        for b in range(blocks):
            middle += window[b, c, 0] / blocks
        square = 0.0
        for b in range(blocks):
            square += (window[b, c, 1] ** 2 + (window[b, c, 0] - middle) ** 2) / blocks
        table[c, 0], table[c, 1] = scaled[c, 0], raw[row]
        table[c, 2], table[c, 3] = peaks[c, 0], peaks[c, 1]
        table[c, 4] = clipped[row] / samples
        table[c, 5], table[c, 6] = middle, np.sqrt(square)


class LiveFigures:
    """Keeps extremes since reset and the mean and deviation over the newest blocks.

    Parameters
    ----------
    rows : (channels,), where each channel stands among the signals
    turned : (channels,), whether a channel's lowest signal is its highest quantity
    steepness : (channels,), quantity by signal, without its sign
    blocks : int
        How many the window holds.
    """

    def __init__(
        self, rows: NDArray[np.intp], turned: NDArray[np.bool_], steepness: Array, blocks: int
    ) -> None:
        self.peaks: Array = np.full((len(turned), 2), np.nan)
        self._rows, self._turned, self._steepness = rows, turned, steepness
        self._window = np.zeros((blocks, len(turned), 2))
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
            and deviation over the window, then lowest, highest, last by bin.

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
            self._window,
            self._filled,
            table,
        )
