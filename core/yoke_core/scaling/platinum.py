"""Platinum resistance thermometers."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from yoke_core.checks import positive
from yoke_core.errors import ScalingError

Array = NDArray[np.float64]
A, B, C = 3.9083e-3, -5.775e-7, -4.183e-12
LOWEST, HIGHEST = -200.0, 850.0  # degC
ICE = 273.15  # K
NEWTON_STEPS = 4
ROUNDED = 1e-4  # of R / R0: the table's own ends are rounded so


def resistance_share(celsius: ArrayLike) -> Array:
    """R(t) / R0 of a platinum thermometer.

    Parameters
    ----------
    celsius : array_like, any shape, degC
        From -200 to 850.

    Returns
    -------
    array, the same shape

    Notes
    -----
    Source: IEC 60751:2022, 5.1.

    Examples
    --------
    >>> resistance_share([0.0, 100.0]).round(4)
    array([1.    , 1.3851])
    """
    t = np.asarray(celsius, dtype=float)
    cold = np.where(t < 0, C * (t - 100) * t**3, 0.0)
    return 1 + A * t + B * t**2 + cold


_LEAST, _MOST = float(resistance_share(LOWEST)), float(resistance_share(HIGHEST))


@dataclass(frozen=True, slots=True)
class PlatinumThermometer:
    """Temperature (K) from resistance (ohm) of an element with ``nominal_ohm`` at 0 degC.

    No number (NaN) for a resistance that no temperature from -200 to 850 degC gives: the
    element is shorted or open. Source: IEC 60751:2022, 5.1; below 0 degC by Newton's method.
    """

    nominal_ohm: float = 100.0

    def __post_init__(self) -> None:
        positive("nominal_ohm", self.nominal_ohm, ScalingError)

    @property
    def direction(self) -> int:
        return 1

    def apply(self, resistance: ArrayLike) -> Array:
        given = np.asarray(resistance, dtype=float)
        share = given / self.nominal_ohm
        inside = (share >= _LEAST - ROUNDED) & (share <= _MOST + ROUNDED)
        share = np.where(inside, share, 1.0)
        t = (-A + np.sqrt(A**2 - 4 * B * (1 - share))) / (2 * B)
        for _ in range(NEWTON_STEPS):
            cold = t < 0
            slope = A + 2 * B * t + np.where(cold, C * (4 * t**3 - 300 * t**2), 0.0)
            t = np.where(cold, t - (resistance_share(t) - share) / slope, t)
        return np.where(inside, t + ICE, np.where(np.isinf(given), given, np.nan))
