"""Live figures of signals that are computed sample by sample."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from yoke_core.streaming.live import FIGURES, LiveFigures

Array = NDArray[np.float64]


class BinnedFigures:
    """Reduces the samples of a block to a mean and a few bins; keeps peaks and statistics."""

    def __init__(self, count: int) -> None:
        self._count = count
        self._figures = LiveFigures(np.arange(count), np.zeros(count, dtype=bool), np.ones(count))

    def reset_peak(self, row: int) -> None:
        self._figures.peaks[row] = np.nan

    def fill(
        self,
        signals: Sequence[Array],
        raw: Sequence[float],
        table: NDArray[np.float32],
    ) -> None:
        """``table`` (signals, FIGURES + 3 * bins) gets the figures of one block more.

        signals : samples of the block, each (n,)
        raw : mean of the raw signal of each; NaN where there is none
        """
        bins = (table.shape[1] - FIGURES) // 3
        shown = np.empty((self._count, 1 + 3 * bins))
        spread = np.empty(self._count)
        for i, values in enumerate(signals):
            shown[i], spread[i] = in_bins(values, bins)
        clipped = np.array([np.count_nonzero(np.isinf(values)) for values in signals])
        means = np.asarray(raw, dtype=float)
        self._figures.take(shown, means, clipped, len(signals[0]), spread, table)


def in_bins(values: Array, bins: int) -> tuple[Array, float]:
    """Mean, then lowest, highest and last of each bin; and the deviation."""
    known = np.isfinite(values)
    out = np.full(1 + 3 * bins, np.nan)
    if not known.any():
        return out, 0.0
    out[0] = values[known].mean()
    starts = np.arange(bins) * len(values) // bins
    out[1::3] = np.fmin.reduceat(values, starts)
    out[2::3] = np.fmax.reduceat(values, starts)
    out[3::3] = values[np.append(starts[1:], len(values)) - 1]
    return out, float(values[known].std())
