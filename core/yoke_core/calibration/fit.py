"""The curve through calibration points by least squares."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from yoke_core.errors import CalibrationError

Array = NDArray[np.float64]
MAX_ORDER = 3


@dataclass(frozen=True, slots=True)
class Fit:
    """A polynomial with the constant first.

    Parameters
    ----------
    coefficients : tuple of float
        Of 1, x, x^2, ...; the constant is 0 of a fit through zero.
    covariance : array (n, n)
        Of the coefficients that were fitted: without the constant of a fit through zero.
    deviation : float
        Standard deviation of the points about the curve, by their degrees of freedom; NaN where
        there is none.
    dof : int
        Points less coefficients.
    """

    coefficients: tuple[float, ...]
    covariance: Array
    deviation: float
    dof: int

    @property
    def through_zero(self) -> bool:
        return len(self.covariance) < len(self.coefficients)

    def apply(self, x: ArrayLike) -> Array:
        """The curve at ``x`` of any shape."""
        return np.polynomial.polynomial.polyval(np.asarray(x, dtype=float), self.coefficients)

    def slope(self, x: ArrayLike) -> Array:
        """Its derivative at ``x``."""
        along = np.polynomial.polynomial.polyder(self.coefficients)
        return np.polynomial.polynomial.polyval(np.asarray(x, dtype=float), along)

    def standard(self, x: ArrayLike) -> Array:
        """Standard uncertainty of the curve at ``x`` by the scatter of its points (GUM H.3)."""
        first = 1 if self.through_zero else 0
        powers = range(first, len(self.coefficients))
        terms = np.stack([np.asarray(x, dtype=float) ** p for p in powers], axis=-1)
        variance = np.einsum("...i,ij,...j->...", terms, self.covariance, terms)
        return np.sqrt(np.maximum(variance, 0.0))


def fit(x: ArrayLike, y: ArrayLike, order: int = 1, *, through_zero: bool = False) -> Fit:
    """The polynomial of an order that lies closest to points.

    Parameters
    ----------
    x, y : array (n,)
    order : int
        1 to 3.
    through_zero : bool
        Whether the curve is to give 0 at 0.

    Returns
    -------
    Fit

    Raises
    ------
    CalibrationError
        Where the points are too few, or too close together, for the order.

    Notes
    -----
    Ordinary least squares on x divided by its largest magnitude, by the QR decomposition.
    Source: GUM H.3.

    Examples
    --------
    >>> fit([0.0, 1.0, 2.0], [1.0, 3.0, 5.0]).coefficients
    (0.9999999999999997, 2.0000000000000004)
    """
    xs, ys = np.asarray(x, dtype=float), np.asarray(y, dtype=float)
    if not 1 <= order <= MAX_ORDER:
        raise CalibrationError("order", f"The order of a fit is 1 to {MAX_ORDER}, not {order}.")
    powers = np.arange(1 if through_zero else 0, order + 1)
    different = np.unique(xs[xs != 0] if through_zero else xs).size
    if different < powers.size:
        raise CalibrationError(
            "order",
            f"A fit of order {order} needs {powers.size} different points, and there "
            f"{'is' if different == 1 else 'are'} {different}.",
            "Take more points, or a lower order.",
        )
    scale = float(np.abs(xs).max())
    design = (xs[:, None] / scale) ** powers
    q, r = np.linalg.qr(design)
    found = np.linalg.solve(r, q.T @ ys)
    dof = xs.size - powers.size
    residual = float(((ys - design @ found) ** 2).sum())
    variance = residual / dof if dof else np.nan
    inverse = np.linalg.inv(r)
    unscale = scale ** -powers.astype(float)
    covariance = variance * (inverse @ inverse.T) * np.outer(unscale, unscale)
    rounded = _cleaned(found) * unscale
    coefficients = (0.0, *rounded.tolist()) if through_zero else tuple(rounded.tolist())
    return Fit(coefficients, covariance, float(np.sqrt(variance)), dof)


def _cleaned(found: Array) -> Array:
    """Without what only rounding made: what is small beside the largest by 1e-14 is nothing."""
    return np.where(np.abs(found) < 1e-14 * np.abs(found).max(), 0.0, found)
