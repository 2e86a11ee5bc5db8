"""Scalings that bend: a table of points, a polynomial."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from yoke_core.errors import ScalingError
from yoke_core.scaling.line import CLOSEST

Array = NDArray[np.float64]
MAX_POINTS = 200
MAX_COEFFICIENTS = 10


@dataclass(frozen=True, slots=True)
class Table:
    """Straight lines between points, the end ones going on beyond them.

    Parameters
    ----------
    signals, values : of equal length, 2 to 200; signals rise
    """

    signals: tuple[float, ...]
    values: tuple[float, ...]

    def __post_init__(self) -> None:
        if not 2 <= len(self.signals) == len(self.values) <= MAX_POINTS:
            raise ScalingError("points", f"A table has 2 to {MAX_POINTS} points.", "Add a point.")
        for place, step in enumerate(np.diff(self.signals), start=2):
            if not step >= CLOSEST:
                raise ScalingError(
                    "points",
                    f"Point {place} has no higher signal than the one before it.",
                    "Order the points by their signal.",
                )

    @property
    def direction(self) -> int:
        steps = np.sign(np.diff(self.values))
        return int(steps[0]) if (steps == steps[0]).all() else 0

    @property
    def turns(self) -> tuple[float, ...]:
        """Signals at which it may turn."""
        return self.signals[1:-1]

    def apply(self, signal: ArrayLike) -> Array:
        x, xs, ys = np.asarray(signal, dtype=float), np.array(self.signals), np.array(self.values)
        place = np.clip(np.searchsorted(xs, x) - 1, 0, len(xs) - 2)
        slope = np.diff(ys)[place] / np.diff(xs)[place]
        finite = np.where(np.isinf(x), 0.0, x)
        found = ys[place] + slope * (finite - xs[place])
        return np.where(np.isinf(x), np.sign(slope) * x, found)


@dataclass(frozen=True, slots=True)
class Polynomial:
    """c0 + c1 x + c2 x^2 ..., valid for signals from ``lowest`` to ``highest``.

    Beyond that range there is no number (NaN): a polynomial says nothing there.
    """

    coefficients: tuple[float, ...]
    lowest: float
    highest: float

    def __post_init__(self) -> None:
        if not 2 <= len(self.coefficients) <= MAX_COEFFICIENTS or not any(self.coefficients[1:]):
            raise ScalingError(
                "coefficients",
                f"A polynomial has 2 to {MAX_COEFFICIENTS} coefficients, not all of them zero.",
                "Give them from the constant upwards.",
            )
        if not self.lowest < self.highest:
            raise ScalingError(
                "highest", "The range ends before it begins.", "Give a higher end of the range."
            )

    @property
    def turns(self) -> tuple[float, ...]:
        """Signals within the range at which it turns."""
        roots = np.polynomial.Polynomial(self.coefficients).deriv().roots()
        flat = roots.real[np.abs(roots.imag) < 1e-12 * np.maximum(1.0, np.abs(roots))]
        return tuple(float(x) for x in flat if self.lowest < x < self.highest)

    @property
    def direction(self) -> int:
        if self.turns:
            return 0
        low, high = self.apply([self.lowest, self.highest])
        return 1 if high > low else -1

    def apply(self, signal: ArrayLike) -> Array:
        x = np.asarray(signal, dtype=float)
        inside = (x >= self.lowest) & (x <= self.highest)
        found = np.polynomial.polynomial.polyval(np.where(inside, x, 0.0), self.coefficients)
        return np.where(inside, found, np.where(np.isinf(x), x, np.nan))
