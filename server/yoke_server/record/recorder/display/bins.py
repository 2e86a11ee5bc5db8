"""Reducing the samples of a block to a mean and a few bins for the screens."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


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
