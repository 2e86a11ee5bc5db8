"""Live figures of signals that are computed sample by sample."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from yoke_core.streaming.live import FIGURES, LiveFigures

Array = NDArray[np.float64]


class BinnedFigures:
    """Reduces the samples of a block to a mean and a few bins; keeps peaks and statistics."""

    def __init__(self, count: int, window_blocks: int) -> None:
        self._count = count
        self._figures = LiveFigures(
            np.arange(count), np.zeros(count, dtype=bool), np.ones(count), window_blocks
        )

    def reset_peak(self, row: int) -> None:
        self._figures.peaks[row] = np.nan

    def fill(
        self,
        signals: Sequence[Array],
        clipped: Sequence[int],
        table: NDArray[np.float32],
        raw: Sequence[float] | None = None,
    ) -> None:
        """``table`` (signals, FIGURES + 3 * bins) gets the figures of one block more.

        signals : samples of the block, each (n,)
        clipped : how many of each are
        raw : mean of the raw signal of each, where there is one
        """
        bins = (table.shape[1] - FIGURES) // 3
        shown = np.empty((self._count, 1 + 3 * bins))
        spread = np.empty(self._count)
        for i, values in enumerate(signals):
            shown[i], spread[i] = in_bins(values, bins)
        samples = len(signals[0])
        means = np.full(self._count, np.nan) if raw is None else np.asarray(raw, dtype=float)
        counts = np.minimum(np.asarray(clipped, np.int64), samples)
        self._figures.take(shown, means, counts, samples, spread, table)


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
