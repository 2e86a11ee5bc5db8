"""Series of a calibration, and what they show of an instrument."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from yoke_core.calibration.fit import Fit, fit
from yoke_core.errors import CalibrationError

Array = NDArray[np.float64]
MIN_LOADS = 3


@dataclass(frozen=True, slots=True)
class Point:
    """A load that was put on, and the signal that it gave.

    nominal : the load that was planned
    load : what it really was
    """

    nominal: float
    load: float
    signal: float


@dataclass(frozen=True, slots=True)
class Series:
    """Loads put on one after the other in one position of the instrument.

    rotation : of the instrument about its axis, degrees
    zero, zero_after : signals without load, before and after; the second may be missing
    rising, falling : in any order; either may lack loads
    """

    rotation: float
    zero: float
    rising: tuple[Point, ...]
    falling: tuple[Point, ...] = ()
    zero_after: float | None = None


@dataclass(frozen=True, slots=True)
class Characteristics:
    """What series show at each nominal load, relative; NaN where they do not tell.

    Parameters
    ----------
    loads : array (n,)
        Nominal, rising in magnitude, without zero.
    deflections : array (n,)
        Mean signal less the zero, of the rising series, the first of each position.
    repeatability : array (n,)
        b': range of the rising series of one position, over their mean.
    reproducibility : array (n,)
        b: range of the rising series of different positions, over their mean.
    interpolation : array (n,)
        f_c: load by the curve at the mean deflection, less the load, over the load.
    reversibility : array (n,)
        v: what falling gives more than rising, over rising, mean of the series; not signed.
    zero_return : float
        f_0: largest, of all series, of the zero after less the zero before, over the deflection
        at the largest load.
    nonlinearity, hysteresis : float
        Largest distance from the straight line through zero and the largest load; largest of
        falling less rising; both over the deflection at the largest load.
    curve : Fit
        From deflection to load.
    """

    loads: Array
    deflections: Array
    repeatability: Array
    reproducibility: Array
    interpolation: Array
    reversibility: Array
    zero_return: float
    nonlinearity: float
    hysteresis: float
    curve: Fit
    rising: Array = field(repr=False)
    falling: Array = field(repr=False)
    rotations: tuple[float, ...] = ()


def characteristics(
    series: Sequence[Series], order: int = 1, *, through_zero: bool = True
) -> Characteristics:
    """Evaluate series of a calibration.

    Parameters
    ----------
    series : sequence of Series
    order : int
        Of the curve, 1 to 3.
    through_zero : bool
        Whether the curve gives no load for no deflection.

    Returns
    -------
    Characteristics
        Its ``rising`` and ``falling`` are deflections (series, n), carried to the nominal loads.

    Raises
    ------
    CalibrationError
        Where there are fewer than three loads, loads of both signs, or a load that gives no
        deflection.

    Notes
    -----
    Source: ISO 376:2011, 7.5. A deflection is carried from the load to the nominal one in
    proportion.

    Examples
    --------
    >>> up = tuple(Point(f, f, f * 2e-7) for f in (2e3, 6e3, 10e3))
    >>> found = characteristics([Series(0.0, 0.0, up), Series(0.0, 0.0, up)])
    >>> round(float(found.curve.coefficients[1])), float(found.repeatability.max())
    (5000000, 0.0)
    """
    loads = _loads(series)
    rising = np.array([_deflections(s, s.rising, loads) for s in series])
    falling = np.array([_deflections(s, s.falling, loads) for s in series])
    rotations = tuple(s.rotation for s in series)
    firsts = [rotations.index(r) for r in dict.fromkeys(rotations)]
    mean = _mean(rising[firsts])
    if not np.isfinite(mean).all() or not mean[-1]:
        raise CalibrationError(
            "points",
            "At each load one rising series at least must have a point that gives a deflection.",
            "Capture what is missing, or leave the load out of the plan.",
        )
    curve = fit(mean, loads, order, through_zero=through_zero)
    by_curve = curve.apply(mean)
    zeros = [s.zero_after - s.zero for s in series if s.zero_after is not None]
    back = (falling - rising) / np.abs(mean[-1])
    return Characteristics(
        loads,
        mean,
        _repeatability(rising, rotations),
        _spread(rising[firsts]) / np.abs(mean),
        (by_curve - loads) / loads,
        _mean(np.abs((falling - rising) / rising)),
        max((z / abs(mean[-1]) for z in zeros), key=abs, default=math.nan),
        float(np.abs(mean - mean[-1] * loads / loads[-1]).max() / abs(mean[-1])),
        float(np.nanmax(np.abs(back))) if np.isfinite(back).any() else math.nan,
        curve,
        rising,
        falling,
        rotations,
    )


def _loads(series: Sequence[Series]) -> Array:
    nominal = sorted({p.nominal for s in series for p in s.rising}, key=abs)
    if len(nominal) < MIN_LOADS:
        raise CalibrationError(
            "points",
            f"A calibration needs {MIN_LOADS} loads besides zero, and there are {len(nominal)}.",
            "Capture more of the plan.",
        )
    loads = np.array(nominal)
    if not ((loads > 0).all() or (loads < 0).all()):
        raise CalibrationError(
            "points",
            "Pulling and pressing are calibrated apart: the loads have both signs.",
            "Make a plan for each.",
        )
    return loads


def _deflections(series: Series, points: Sequence[Point], loads: Array) -> Array:
    """Of a series at each nominal load; the newest point counts, NaN where there is none."""
    found = {p.nominal: (p.signal - series.zero) * p.nominal / p.load for p in points if p.load}
    return np.array([found.get(float(f), math.nan) for f in loads])


def _known(table: Array) -> Array:
    """How many of each column (n,) are known."""
    return np.isfinite(table).sum(axis=0)


def _mean(table: Array) -> Array:
    """Of the known of each column; NaN of none."""
    known = _known(table)
    total = np.where(np.isfinite(table), table, 0.0).sum(axis=0)
    return np.where(known > 0, total / np.maximum(known, 1), np.nan)


def _spread(table: Array) -> Array:
    """Range of each column; NaN of fewer than two that are known."""
    high = np.where(np.isfinite(table), table, -np.inf).max(axis=0, initial=-np.inf)
    low = np.where(np.isfinite(table), table, np.inf).min(axis=0, initial=np.inf)
    return np.where(_known(table) > 1, high - low, np.nan)


def _repeatability(rising: Array, rotations: Sequence[float]) -> Array:
    """The largest, of all positions, of the range of one position's series over their mean."""
    found = []
    for rotation in dict.fromkeys(rotations):
        same = rising[[r == rotation for r in rotations]]
        found.append(_spread(same) / np.abs(_mean(same)))
    table = np.array(found)
    largest = np.where(np.isfinite(table), table, -np.inf).max(axis=0)
    return np.where(_known(table) > 0, largest, np.nan)
