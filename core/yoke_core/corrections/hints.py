"""What looks wrong with a recorded signal, and the likely cause."""

import math
from collections.abc import Sequence

import numpy as np

from yoke_core.signals.node import Array

# By how much a value is off where its unit was taken for another one.
UNIT_SLIPS = (1e-6, 1e-3, 1e-2, 1e2, 1e3, 1e6)
HIGHEST_STRAIN = 0.05  # that a gauge survives
LIKELY_STRAIN = 0.02
HIGHEST_ANGLE = 4 * math.pi  # rad; beyond it degrees are likelier
SAME = 0.3  # how far a ratio may lie from a slip's, as a share
SURE = 0.9  # squared correlation from which a drift is one with temperature
MIN_WARMING = 0.3  # K


def slip_of_ratio(ratio: float, slips: Sequence[float] = UNIT_SLIPS) -> float | None:
    """The factor by which a value is too large, where that looks like a slip of its unit.

    Parameters
    ----------
    ratio : float
        Of the value to what it would be.
    slips : sequence of float

    Returns
    -------
    float or None
        One of ``slips``; None where the ratio is near none of them.

    Examples
    --------
    >>> slip_of_ratio(1100.0), slip_of_ratio(1.2)
    (1000.0, None)
    """
    if not (math.isfinite(ratio) and ratio > 0):
        return None
    return next((slip for slip in slips if abs(ratio / slip - 1) <= SAME), None)


def slip_of_strain(peak: float) -> float | None:
    """The factor by which a strain is too large to be one.

    Parameters
    ----------
    peak : float, m/m
        The largest strain, without its sign.

    Returns
    -------
    float or None
        100 for percent, 1e3 for mm/m, 1e6 for µm/m taken for m/m; None for what may be a strain.

    Examples
    --------
    >>> slip_of_strain(803.0), slip_of_strain(0.5), slip_of_strain(8e-4)
    (1000000.0, 100.0, None)
    """
    if not (math.isfinite(peak) and peak > HIGHEST_STRAIN):
        return None
    return next((slip for slip in (1e2, 1e3, 1e6) if peak / slip <= LIKELY_STRAIN), None)


def slip_of_angle(peak: float) -> float | None:
    """The factor by which an angle is too large, where degrees were taken for radians.

    Parameters
    ----------
    peak : float, rad

    Returns
    -------
    float or None

    Examples
    --------
    >>> round(slip_of_angle(90.0), 2), slip_of_angle(3.0)
    (57.3, None)
    """
    return 180 / math.pi if math.isfinite(peak) and peak > HIGHEST_ANGLE else None


def drift_with_temperature(strain: Array, temperature: Array) -> float | None:
    """How a strain goes with a temperature, where it goes with nothing else.

    Parameters
    ----------
    strain : array (n,), m/m
    temperature : array (n,), K
        At the same instants. Instants at which one is not known are left out.

    Returns
    -------
    float or None, 1/K
        The slope of the least-squares line; None where the temperature changes by less than
        0.3 K, or explains less than nine tenths of the strain's variance.

    Examples
    --------
    >>> t = np.linspace(293.0, 294.0, 50)
    >>> round(drift_with_temperature(25e-6 * (t - 293.0), t) * 1e6, 6)
    25.0
    """
    known = np.isfinite(strain) & np.isfinite(temperature)
    x, y = temperature[known], strain[known]
    if len(x) < 3 or np.ptp(x) < MIN_WARMING or not np.ptp(y):
        return None
    slope = float(np.cov(x, y, bias=True)[0, 1] / np.var(x))
    explained = slope**2 * np.var(x) / np.var(y)
    return slope if explained >= SURE else None
