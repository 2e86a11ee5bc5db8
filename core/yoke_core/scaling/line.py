"""Straight lines, however they are stated: rated output, sensitivity, two points, loop span."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from yoke_core.checks import positive
from yoke_core.errors import ScalingError

Array = NDArray[np.float64]
CLOSEST = 1e-9  # of signals, in their unit: below what any amplifier tells apart


@dataclass(frozen=True, slots=True)
class Line:
    """quantity = offset + slope * signal."""

    slope: float
    offset: float = 0.0

    @property
    def direction(self) -> int:
        return 1 if self.slope > 0 else -1

    def apply(self, signal: ArrayLike) -> Array:
        return np.asarray(signal, dtype=float) * self.slope + self.offset


def _not_zero(argument: str, value: float) -> float:
    if math.isfinite(value) and abs(value) >= CLOSEST:
        return value
    words = argument.replace("_", " ")
    raise ScalingError(argument, f"The {words} must not be zero.", f"Give the {words} anew.")


def rated_output(rated_output: float, capacity: float) -> Line:
    """A transducer by its certificate.

    Parameters
    ----------
    rated_output : float, V/V
        What it gives at capacity; of either sign, not zero.
    capacity : float, SI, above zero

    Returns
    -------
    Line

    Raises
    ------
    ScalingError
        Naming the argument that gives no line.

    Examples
    --------
    >>> float(rated_output(2e-3, 5000.0).apply(1e-3))
    2500.0
    """
    return Line(
        positive("capacity", capacity, ScalingError) / _not_zero("rated_output", rated_output)
    )


def two_points(signal_1: float, value_1: float, signal_2: float, value_2: float) -> Line:
    """The line through two points.

    Parameters
    ----------
    signal_1, signal_2 : float, SI of the signal
    value_1, value_2 : float, SI of the quantity

    Returns
    -------
    Line

    Raises
    ------
    ScalingError
        If both points have the same signal (to `CLOSEST`), or the same value.

    Examples
    --------
    >>> float(two_points(0.0, 0.0, 10.0, 0.05).apply(5.0))
    0.025
    """
    if abs(signal_1 - signal_2) < CLOSEST:
        raise ScalingError(
            "signal_2",
            "Both points have the same signal, so no line goes through them.",
            "Give the second point another signal.",
        )
    if value_1 == value_2:
        raise ScalingError(
            "value_2",
            "Both points have the same value, so the channel would always read that.",
            "Give the second point another value.",
        )
    slope = (value_2 - value_1) / (signal_2 - signal_1)
    return Line(slope, value_1 - slope * signal_1)
