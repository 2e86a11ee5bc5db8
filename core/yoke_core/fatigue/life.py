"""Damage and life: the S-N line, mean stress, the linear sum."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yoke_core.checks import positive
from yoke_core.errors import FatigueError
from yoke_core.fatigue.rainflow import Cycles

Array = NDArray[np.float64]
FEWEST = 1e-9  # cycles to failure: whatever breaks at once does a damage that is still a number


@dataclass(frozen=True, slots=True)
class BasquinCurve:
    """Stress amplitude = strength * (2 N)^exponent, N cycles to failure.

    Parameters
    ----------
    strength : float, Pa
        Fatigue strength coefficient.
    exponent : float
        Negative, about -0.05 to -0.25.

    Notes
    -----
    Source: O. H. Basquin, The Exponential Law of Endurance Tests, Proc. ASTM 10 (1910).
    """

    strength: float
    exponent: float

    def __post_init__(self) -> None:
        positive("strength", self.strength, FatigueError)
        if not (math.isfinite(self.exponent) and -2 <= self.exponent < 0):
            raise FatigueError(
                "exponent",
                f"The exponent must be negative, not {self.exponent:g}: higher stress means "
                "fewer cycles.",
                "Give it with its sign, about -0.05 to -0.25.",
            )

    def cycles(self, amplitude: Array) -> Array:
        """Cycles to failure at stress amplitudes (Pa); infinite at zero."""
        with np.errstate(divide="ignore", over="ignore"):
            return np.asarray(
                0.5 * (np.asarray(amplitude, float) / self.strength) ** (1 / self.exponent)
            )


def goodman(amplitude: Array, mean: Array, tensile_strength: float) -> Array:
    """Amplitude at zero mean that does the same damage; a pressing mean does not help.

    Parameters
    ----------
    amplitude, mean : array, one shape, Pa
        Tension positive.
    tensile_strength : float, Pa, above zero

    Returns
    -------
    array, the same shape, Pa
        Infinite at a mean of the tensile strength and above: nothing is left.

    Raises
    ------
    FatigueError
        Where the strength is not above zero.

    Notes
    -----
    Source: J. Goodman, Mechanics Applied to Engineering (1899).

    Examples
    --------
    >>> goodman(np.array([100e6]), np.array([250e6]), 500e6) / 1e6
    array([200.])
    """
    limit = positive("tensile_strength", tensile_strength, FatigueError)
    left = 1 - np.maximum(mean, 0.0) / limit
    return np.where(left > 0, amplitude / np.where(left > 0, left, 1.0), np.inf)


def damage_of(
    cycles: Cycles,
    curve: BasquinCurve,
    stress_per_unit: float = 1.0,
    tensile_strength: float | None = None,
) -> Array:
    """The share of life that each counted cycle takes, half cycles half; their sum is Miner's.

    Parameters
    ----------
    cycles : Cycles
        n of them, in the unit that was counted.
    curve : BasquinCurve
    stress_per_unit : float
        Stress (Pa) per unit of what was counted: Young's modulus for strain, 1 for stress.
    tensile_strength : float or None, Pa
        With it, mean stresses count by `goodman`.

    Returns
    -------
    array, shape (n,)

    Raises
    ------
    FatigueError
        Naming the argument that is not above zero.

    Notes
    -----
    Linear sum of n / N. Source: M. A. Miner, Cumulative Damage in Fatigue, J. Appl. Mech. 12
    (1945).

    Examples
    --------
    >>> one = Cycles(np.array([-450e6], np.float32), np.array([450e6], np.float32), 1.0)
    >>> damage_of(one, BasquinCurve(900e6, -0.1)).round(6)
    array([0.001953])
    """
    stress = positive("stress_per_unit", stress_per_unit, FatigueError)
    amplitude = 0.5 * stress * cycles.ranges
    if tensile_strength is not None:
        amplitude = goodman(amplitude, stress * cycles.means, tensile_strength)
    return cycles.count / np.maximum(curve.cycles(amplitude), FEWEST)
