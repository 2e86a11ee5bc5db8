"""Statistics over the results of a series."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np


@dataclass(frozen=True, slots=True)
class Series:
    """Mean, and deviation (n - 1 under the root; None of fewer than two), of ``count`` values."""

    count: int
    mean: float
    deviation: float | None
    lowest: float
    highest: float


def series(values: Sequence[float | None]) -> Series | None:
    """Statistics of the values that are there.

    Parameters
    ----------
    values : sequence of float or None
        None, NaN and infinities are no values.

    Returns
    -------
    Series or None
        None of no values; its deviation is None of a single one.

    Notes
    -----
    Source: ISO 2602.

    Examples
    --------
    >>> series([2.0, None, 4.0]).mean
    3.0
    """
    known = np.array([v for v in values if v is not None and np.isfinite(v)])
    if not known.size:
        return None
    deviation = float(known.std(ddof=1)) if known.size > 1 else None
    return Series(
        known.size, float(known.mean()), deviation, float(known.min()), float(known.max())
    )
