"""Uncertainties of many readings at once, as they come from a bench."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from yoke_core.uncertainty.budget import coverage_factor

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class ReadingBudgets:
    """What the readings of n channels are uncertain by, however large they are.

    Parameters
    ----------
    gain : array (n,)
        Relative standard uncertainty of each channel's slope.
    offset : array (n,), SI
        Standard uncertainty of its zero.
    resolution : array (n,), SI
        Standard uncertainty of the last digit that is shown.

    Notes
    -----
    Terms are independent, with degrees of freedom without end: k is 2.00 for 95.45 %. Source:
    JCGM 100:2008 (GUM), 5.1.2.

    Examples
    --------
    >>> one = ReadingBudgets(np.array([1e-3]), np.array([0.0]), np.array([3.0]))
    >>> one.expanded([4000.0], [0.0]).round(3).tolist()
    [10.0]
    """

    gain: Array
    offset: Array
    resolution: Array

    def expanded(self, readings: ArrayLike, deviations: ArrayLike) -> Array:
        """U = k u of readings (n,) whose samples spread by deviations (n,), both SI; NaN of a
        reading that has no number."""
        values, noise = np.asarray(readings, dtype=float), np.asarray(deviations, dtype=float)
        squares = (self.gain * values) ** 2 + self.offset**2 + self.resolution**2 + noise**2
        return np.where(np.isfinite(values), coverage_factor(math.inf) * np.sqrt(squares), np.nan)
