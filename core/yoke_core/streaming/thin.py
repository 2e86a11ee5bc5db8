"""Thinning a curve y(x) to what a plot of given size can show."""

import numpy as np
from numpy.typing import ArrayLike, NDArray


def thin_curve(x: ArrayLike, y: ArrayLike, width: int, height: int) -> NDArray[np.intp]:
    """Indices of the samples that enter a new pixel of a plot.

    Parameters
    ----------
    x, y : array_like, shape (n,)
    width, height : int, pixels

    Returns
    -------
    array of int
        Rising. The first and last sample are among them, so that ends and marks sit on the drawn
        curve; never more than 2 (width + height): beyond that (a noisy signal) every n-th is kept.

    Examples
    --------
    >>> thin_curve(np.arange(5), [0, 0, 0, 0, 1], 2, 2).tolist()
    [0, 2, 4]
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
