"""Uncertainty of a calibration: the budget at each load."""

import math
from dataclasses import dataclass

import numpy as np

from yoke_core.calibration.series import Characteristics
from yoke_core.uncertainty.budget import Budget, Component, Distribution, limits

ROOM = 1.0  # K, by which the room may have warmed within a calibration


@dataclass(frozen=True, slots=True)
class Conditions:
    """What is known besides the points.

    Parameters
    ----------
    reference : float
        Relative expanded uncertainty of the loads.
    reference_factor : float
        Coverage factor k of that.
    reference_drift : float
        Relative, by which the reference may have drifted since it was calibrated; limits.
    resolution : float
        Of the indication, as a load.
    creep : float
        Relative change from 30 s to 300 s; NaN if not tried.
    temperature_coefficient : float, 1/K
        Relative, of the instrument.
    temperature_change : float, K
        Within which the temperature stayed; half of its range.
    """

    reference: float
    resolution: float
    reference_factor: float = 2.0
    reference_drift: float = 0.0
    creep: float = math.nan
    temperature_coefficient: float = 0.0
    temperature_change: float = ROOM


def budget_at(found: Characteristics, conditions: Conditions, place: int) -> Budget:
    """What the load that the instrument indicates is uncertain by, at one load.

    Parameters
    ----------
    found : Characteristics
    conditions : Conditions
    place : int
        Of the load among ``found.loads``.

    Returns
    -------
    Budget
        Terms in the unit of the load.

    Notes
    -----
    Source: ISO 376:2011, annex C.1.3 to C.1.10. A term that was not examined is not in it. The
    degrees of freedom are those of the values that a term rests on.

    Examples
    --------
    >>> from yoke_core.calibration.series import Point, Series, characteristics
    >>> up = tuple(Point(f, f, f * 2e-7) for f in (2e3, 6e3, 10e3))
    >>> found = characteristics([Series(0.0, 0.0, up), Series(0.0, 0.0, up)])
    >>> budget = budget_at(found, Conditions(reference=2e-4, resolution=0.0), 2)
    >>> [t.name for t in budget.terms if t.contribution > 1e-6], budget.combined
    (['reference'], 1.0)
    """
    load = abs(float(found.loads[place]))
    terms = [
        Component("reference", conditions.reference / conditions.reference_factor * load),
        limits("drift of the reference", conditions.reference_drift * load),
        Component("resolution", conditions.resolution / math.sqrt(6), distribution=TRIANGULAR),
        *_of_series(found, load, place),
        Component("interpolation", *_interpolation(found)),
        Component("zero", _known(found.zero_return) * load),
        limits("creep", _known(conditions.creep) * load),
        limits(
            "temperature",
            abs(conditions.temperature_coefficient) * conditions.temperature_change * load,
        ),
    ]
    return Budget([t for t in terms if t.standard or t.name == "reference"])


TRIANGULAR = Distribution.TRIANGULAR


def _of_series(found: Characteristics, load: float, place: int) -> list[Component]:
    """Reproducibility by the mean of the positions, repeatability by the range of one."""
    terms = []
    firsts = [found.rotations.index(r) for r in dict.fromkeys(found.rotations)]
    values = found.rising[firsts, place]
    values = values[np.isfinite(values)]
    if values.size > 1:
        of_mean = float(values.std(ddof=1)) / math.sqrt(values.size)
        share = of_mean / abs(float(values.mean()))
        terms.append(Component("reproducibility", share * load, dof=values.size - 1))
    repeated = float(found.repeatability[place])
    if math.isfinite(repeated):
        terms.append(limits("repeatability", repeated * load))
    return terms


def _interpolation(found: Characteristics) -> tuple[float, float, float]:
    """Standard uncertainty, sensitivity and degrees of freedom of the curve."""
    curve = found.curve
    if not curve.dof:
        return 0.0, 1.0, math.inf
    return curve.deviation, 1.0, float(curve.dof)


def _known(value: float) -> float:
    return abs(value) if math.isfinite(value) else 0.0


def expanded_relative(found: Characteristics, conditions: Conditions, from_load: float) -> float:
    """The largest relative expanded uncertainty (95.45 %) from a load on.

    Parameters
    ----------
    found : Characteristics
    conditions : Conditions
    from_load : float
        The largest load counts always.

    Returns
    -------
    float
    """
    places = [i for i, f in enumerate(found.loads) if abs(f) >= from_load] or [-1]
    return max(
        budget_at(found, conditions, i).expanded() / abs(float(found.loads[i])) for i in places
    )
