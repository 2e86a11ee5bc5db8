"""From the output ratio of a bridge to the quantity its sensor measures."""

from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import ArrayLike, NDArray

from yoke_core.checks import positive
from yoke_core.errors import ScalingError

Array = NDArray[np.float64]
CLOSEST = 1e-9  # V/V


class Scaling(Protocol):
    """Turns zeroed output ratios (V/V) into a quantity in SI units."""

    def apply(self, ratio: ArrayLike) -> Array: ...


@dataclass(frozen=True, slots=True)
class StrainScaling:
    """Strain (m/m) from a bridge of strain gauges.

    ``exact_quarter`` solves the quarter bridge without linearising:
    U/E = (k*strain/4) / (1 + k*strain/2), hence strain = 4r / (k (1 - 2r)).
    Source: Hoffmann, An Introduction to Measurements using Strain Gages.
    """

    gauge_factor: float
    bridge_factor: float = 1.0
    exact_quarter: bool = False

    def __post_init__(self) -> None:
        positive("gauge_factor", self.gauge_factor, ScalingError)
        positive("bridge_factor", self.bridge_factor, ScalingError)

    def apply(self, ratio: ArrayLike) -> Array:
        r = np.asarray(ratio, dtype=float)
        linear = r * (4.0 / (self.gauge_factor * self.bridge_factor))
        if not self.exact_quarter:
            return linear
        return linear / (1.0 - 2.0 * np.where(np.isfinite(r), r, 0.0))  # what clipped stays so


@dataclass(frozen=True, slots=True)
class RatedOutputScaling:
    """A transducer with ``rated_output`` (V/V) at ``capacity`` (SI unit of the quantity)."""

    rated_output: float
    capacity: float

    def __post_init__(self) -> None:
        positive("rated_output", self.rated_output, ScalingError)
        positive("capacity", self.capacity, ScalingError)

    def apply(self, ratio: ArrayLike) -> Array:
        return np.asarray(ratio, dtype=float) * (self.capacity / self.rated_output)


@dataclass(frozen=True, slots=True)
class TwoPointScaling:
    """The straight line through (ratio_1, value_1) and (ratio_2, value_2); V/V to SI.

    Raises
    ------
    ScalingError
        If both points have the same ratio (to 1e-9 V/V, below what any amplifier tells
        apart), or the same value.
    """

    ratio_1: float
    value_1: float
    ratio_2: float
    value_2: float

    def __post_init__(self) -> None:
        if abs(self.ratio_1 - self.ratio_2) < CLOSEST:
            raise ScalingError(
                "point_2_mv_v",
                "Both points have the same signal, so no line goes through them.",
                "Give the second point another signal in mV/V.",
            )
        if self.value_1 == self.value_2:
            raise ScalingError(
                "point_2_value",
                "Both points have the same value, so the channel would always read that.",
                "Give the second point another value.",
            )

    def apply(self, ratio: ArrayLike) -> Array:
        slope = (self.value_2 - self.value_1) / (self.ratio_2 - self.ratio_1)
        return self.value_1 + slope * (np.asarray(ratio, dtype=float) - self.ratio_1)
