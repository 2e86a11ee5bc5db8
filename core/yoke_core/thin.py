"""Thinning a curve y(x) to what a plot of given size can show."""

import numpy as np
from numpy.typing import ArrayLike, NDArray


def thin_curve(x: ArrayLike, y: ArrayLike, width: int, height: int) -> NDArray[np.intp]:
    """Indices of the samples that enter a new pixel of a width by height plot.

    The first and last sample always stay, so ends and marks sit on the drawn curve. At most
    as many indices as the curve crosses pixels, and never more than 2 (width + height):
    beyond that (a noisy signal) every n-th of them is kept.
    """
    xs, ys = np.asarray(x, dtype=float), np.asarray(y, dtype=float)
    if xs.size < 3:
        return np.arange(xs.size)
    column, row = _cells(xs, width), _cells(ys, height)
    moved = (np.diff(column) != 0) | (np.diff(row) != 0)
    keep = np.concatenate([[0], np.flatnonzero(moved) + 1, [xs.size - 1]])
    most = 2 * (width + height)
    if keep.size > most:
        keep = keep[np.linspace(0, keep.size - 1, most).astype(int)]
    return np.unique(keep)


def _cells(values: NDArray[np.float64], count: int) -> NDArray[np.float64]:
    low, high = np.nanmin(values), np.nanmax(values)
    return np.floor((values - low) / ((high - low) or 1.0) * count)
