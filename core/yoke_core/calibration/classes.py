"""Classes of instruments by standards: limits of each characteristic, and what limits a class."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yoke_core.calibration.series import Characteristics

Array = NDArray[np.float64]
Limits = Mapping[str, float]


@dataclass(frozen=True, slots=True)
class InstrumentClass:
    """A class by its limits, relative, not signed.

    least_resolutions : how many resolutions the smallest load of the class must have
    """

    name: str
    limits: Limits
    least_resolutions: float


@dataclass(frozen=True, slots=True)
class Standard:
    """How a standard has an instrument calibrated and classed.

    classes : the best first
    rotations, loads, preloads : how many it asks for
    """

    title: str
    classes: tuple[InstrumentClass, ...]
    rotations: int
    loads: int
    preloads: int


def _force(name: str, least: float, *percent: float) -> InstrumentClass:
    names = (
        "reproducibility", "repeatability", "interpolation", "zero_return", "reversibility",
        "creep", "reference",
    )  # fmt: skip
    limits = {n: p / 100 for n, p in zip(names, percent, strict=True)}
    return InstrumentClass(name, limits, least)


def _torque(percent: float) -> InstrumentClass:
    """All limits go with the class, and so does the smallest torque, in resolutions."""
    one = percent / 100
    limits = {
        "reproducibility": 2 * one,
        "repeatability": one,
        "interpolation": one,
        "zero_return": one / 2,
        "reversibility": 2.5 * one,
        "reference": one / 2.5,
    }
    return InstrumentClass(f"{2 * percent:g}", limits, 100 / percent)


BEST = 1 + 1e-9  # of a limit: rounding breaks none

ISO_376 = Standard(
    "ISO 376:2011",
    (
        _force("00", 4000, 0.05, 0.025, 0.025, 0.012, 0.07, 0.025, 0.01),
        _force("0.5", 2000, 0.10, 0.05, 0.05, 0.025, 0.15, 0.05, 0.02),
        _force("1", 1000, 0.20, 0.10, 0.10, 0.05, 0.30, 0.10, 0.05),
        _force("2", 500, 0.40, 0.20, 0.20, 0.10, 0.50, 0.20, 0.10),
    ),
    rotations=3,
    loads=8,
    preloads=3,
)
DIN_51309 = Standard(
    "DIN 51309",
    tuple(_torque(p) for p in (0.025, 0.05, 0.1, 0.25, 0.5, 1.0, 2.5)),
    rotations=3,
    loads=8,
    preloads=3,
)


@dataclass(frozen=True, slots=True)
class Verdict:
    """The class of one characteristic; ``worst`` is its largest magnitude in the class's range.

    name : of the class; empty where the characteristic is in none
    """

    characteristic: str
    worst: float
    name: str


@dataclass(frozen=True, slots=True)
class Classification:
    """A class, and what it rests on.

    name : of the class; empty of an instrument that is in none
    from_load : the smallest load for which it holds
    verdicts : of each characteristic that was examined
    limited_by : the characteristic that keeps it from a better class; empty of the best
    lacks : what the standard asks for and was not done, in words
    """

    name: str
    from_load: float
    verdicts: tuple[Verdict, ...]
    limited_by: str
    lacks: tuple[str, ...]


def classify(
    found: Characteristics,
    standard: Standard,
    resolution: float,
    reference: float,
    creep: float = math.nan,
    preloads: int = 0,
) -> Classification:
    """The best class of a standard whose limits all that was examined keeps to.

    Parameters
    ----------
    found : Characteristics
    standard : Standard
    resolution : float
        Of the indication, as a load.
    reference : float
        Relative expanded uncertainty (k = 2) of the loads.
    creep : float
        Relative change under, or after, the largest load, from 30 s to 300 s; NaN if not tried.
    preloads : int
        How many were made.

    Returns
    -------
    Classification

    Notes
    -----
    Source: ISO 376:2011, 8.1 and table 2; DIN 51309, table 3. What was not examined takes
    no part in the class and is named in ``lacks``.
    """
    largest, smallest = abs(found.loads[-1]), abs(found.loads[0])
    values = {
        "reproducibility": found.reproducibility,
        "repeatability": found.repeatability,
        "interpolation": np.abs(found.interpolation),
        "reversibility": found.reversibility,
        "zero_return": np.array([abs(found.zero_return)]),
        "creep": np.array([abs(creep)]),
        "reference": np.array([reference]),
    }
    verdicts = [
        _verdict(name, array, found, standard, resolution)
        for name, array in values.items()
        if name in standard.classes[0].limits and np.isfinite(array).any()
    ]
    names = [c.name for c in standard.classes]
    ranks = {v.characteristic: names.index(v.name) if v.name else len(names) for v in verdicts}
    coarse = next(
        (i for i, c in enumerate(standard.classes) if c.least_resolutions * resolution <= largest),
        len(names),
    )
    rank = max([*ranks.values(), coarse])
    best = standard.classes[rank] if rank < len(names) else None
    limiting = next((n for n, r in ranks.items() if r == rank and rank), "")
    least = best.least_resolutions * resolution if best else largest
    return Classification(
        best.name if best else "",
        max(smallest, least),
        tuple(verdicts),
        limiting or ("resolution" if rank and rank == coarse else ""),
        tuple(_lacks(found, standard, creep, preloads)),
    )


def _verdict(
    name: str, values: Array, found: Characteristics, standard: Standard, resolution: float
) -> Verdict:
    """The best class whose limit a characteristic keeps to from the class's smallest load on."""
    for one in standard.classes:
        counted = values
        if values.size == found.loads.size:
            reached = np.abs(found.loads) >= one.least_resolutions * resolution
            counted = values[reached] if reached.any() else values[-1:]
        worst = _worst(counted)
        if math.isfinite(worst) and worst <= one.limits[name] * BEST:
            return Verdict(name, worst, one.name)
    return Verdict(name, _worst(values), "")


def _worst(values: Array) -> float:
    known = values[np.isfinite(values)]
    return float(known.max()) if known.size else math.nan


def _lacks(
    found: Characteristics, standard: Standard, creep: float, preloads: int
) -> Sequence[str]:
    lacks = []
    if (rotations := len(set(found.rotations))) < standard.rotations:
        lacks.append(f"{standard.rotations} positions about the axis (there is {rotations})")
    if found.loads.size < standard.loads:
        lacks.append(f"{standard.loads} loads (there are {found.loads.size})")
    if preloads < standard.preloads:
        lacks.append(f"{standard.preloads} preloads")
    if not np.isfinite(found.repeatability).any():
        lacks.append("two series in one position")
    if not np.isfinite(found.reversibility).any() and not math.isfinite(creep):
        lacks.append("falling loads or a creep test")
    return lacks
