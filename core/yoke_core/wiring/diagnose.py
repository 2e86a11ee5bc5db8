"""Which cause, or pair of causes, predicts what the amplifier measured."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from itertools import combinations

import numpy as np
from numpy.typing import NDArray

from yoke_core.wiring.causes import (
    SCALED,
    Cause,
    Kind,
    Sensor,
    base_ohm,
    case_of,
    go_together,
    single_causes,
)
from yoke_core.wiring.network import CHECKER, READINGS, STATES, Case, Checker, readings

Array = NDArray[np.float64]

ARM_TOLERANCE = 0.004  # 1 sigma of an arm that is well: off by 1 % costs one fault
FAULT_COST = (0.01 / ARM_TOLERANCE) ** 2
NEAR = 4.0  # by how much another explanation may fit worse and still be named
NO_FIT = 60.0  # beyond this nothing explains what was measured
MAX_NAMED = 4
LIKELY = {kind: rank for rank, kind in enumerate(Kind)}
# What the amplifier cannot tell: parts of the excitation, and of the current.
VOLTAGE_ERROR, CURRENT_ERROR = 3e-4, 1e-3
LEAD_TOLERANCE = 0.1  # of a core's resistance: length and section are seldom better known
SCALES = (
    3e-4, 0.02, 0.05, 0.08, 0.12, 0.17, 0.23, 0.29, 0.343, 0.41, 0.5, 0.6, 0.7, 0.79, 0.87, 0.93,
    0.96, 0.985, 1.015, 1.04, 1.07, 1.13, 1.22, 1.36, 1.6, 2.0, 2.4, 2.86, 3.5, 4.5, 6.0, 8.0, 12.0,
)  # fmt: skip


CABLES = (0.02, 0.1, 0.25, 0.5, 1.0, 2.0, 4.0, 10.0, 25.0)  # of a core, over the one set
BAD_CORES = (0.003, 0.01, 0.03, 0.1, 0.3, 1.0, 3.0)  # over an arm's resistance
LOWEST_WELL = 0.985  # between this and the next scale an arm is well


@dataclass(frozen=True, slots=True)
class Explanation:
    """Causes that together predict what was measured; ``misfit`` is chi-squared."""

    causes: tuple[Cause, ...]
    misfit: float

    @property
    def cost(self) -> float:
        return self.misfit + FAULT_COST * len(self.causes)


@dataclass(frozen=True, slots=True)
class Table:
    """All explanations of a sensor, whitened: a straight piece from ``start`` by ``step`` each."""

    causes: tuple[tuple[Cause, ...], ...]
    of: NDArray[np.int64]  # which causes a piece belongs to
    start: Array  # (pieces, readings)
    step: Array
    scales: Array  # (pieces, 2)
    whitening: Array
    faults: NDArray[np.int64]  # (causes,)


def explain(
    sensor: Sensor, measured: Sequence[float], checker: Checker = CHECKER
) -> list[Explanation]:
    """The explanations of what was measured, the best and those that read alike.

    Parameters
    ----------
    sensor : Sensor
        What should be wired.
    measured : (15,)
        As `network.readings` gives them.

    Returns
    -------
    list of Explanation
        An empty tuple of causes means that all is well. Of a cause that changes a resistance,
        ``value`` is the resistance found, ohm. One explanation with `Kind.UNKNOWN` where
        nothing predicts what was measured.

    Notes
    -----
    Each explanation is a network that is solved beforehand (`table`); how far a measurement
    lies from it counts in units of what arms, leads and amplifier may differ by (chi-squared),
    and each fault costs as much as an arm that is 1 % off: the simplest explanation wins.
    """
    y = np.asarray(measured, dtype=float)
    known = table(sensor, checker)
    z = known.whitening @ y
    if (well := float(((z - known.start[0]) ** 2).sum())) <= FAULT_COST:
        return [Explanation((), well)]  # whatever else may fit costs more
    misfit, share = _misfits(known, z)
    best = np.full(len(known.causes), np.inf)
    np.minimum.at(best, known.of, misfit)
    cost = best + FAULT_COST * known.faults
    order = np.argsort(cost, kind="stable")[:MAX_NAMED]
    if best[order[0]] > NO_FIT:
        return [Explanation((Cause(Kind.UNKNOWN),), float(best[order[0]]))]
    near = [k for k in order if cost[k] <= cost[order[0]] + NEAR]
    alike = [k for k in near if known.faults[k] == known.faults[order[0]]]
    likely = sorted(alike, key=lambda k: [LIKELY[c.kind] for c in known.causes[k]])
    return [_explanation(sensor, known, int(k), misfit, share) for k in likely]


def _misfits(known: Table, z: Array) -> tuple[Array, Array]:
    """Squared distance from each piece, and how far along it the nearest point lies."""
    away = z - known.start
    along = (away * known.step).sum(axis=1)
    length = (known.step**2).sum(axis=1)
    share = np.clip(along / np.where(length > 0, length, 1.0), 0.0, 1.0)
    return ((away - share[:, None] * known.step) ** 2).sum(axis=1), share


def _explanation(
    sensor: Sensor, known: Table, which: int, misfit: Array, share: Array
) -> Explanation:
    pieces = np.flatnonzero(known.of == which)
    piece = pieces[np.argmin(misfit[pieces])]
    low, high = known.scales[piece]
    scale = float(low + (high - low) * share[piece])
    causes = tuple(
        replace(c, value=scale * base_ohm(sensor, c.kind)) if c.kind in SCALED else c
        for c in known.causes[which]
    )
    return Explanation(causes, float(misfit[piece]))


@lru_cache(maxsize=256)
def table(sensor: Sensor, checker: Checker = CHECKER) -> Table:
    """All explanations of a sensor: none, each cause, each pair that can go together."""
    singles = single_causes(sensor)
    pairs = [pair for pair in combinations(singles, 2) if go_together(sensor, *pair)]
    sets: list[tuple[Cause, ...]] = [(), *((c,) for c in singles), *pairs]
    cases: list[Case] = []
    of, scales = [], []
    for k, causes in enumerate(sets):
        for scale in _scales(causes):
            cases.append(case_of(sensor, causes, scale))
            of.append(k)
            scales.append(scale)
    predicted = readings(cases, checker)
    whitening = _whitening(sensor, checker)
    points = predicted @ whitening.T
    owner = np.array(of)
    last = np.append(owner[1:] != owner[:-1], True)
    gap = np.append(np.isclose(scales[:-1], LOWEST_WELL) & ~last[:-1], False)  # an arm that is well
    alone = last & np.append(True, owner[1:] != owner[:-1])
    kept = np.flatnonzero((~last & ~gap) | alone)
    following = np.where(alone, np.arange(len(cases)), np.arange(1, len(cases) + 1))[kept]
    ends = np.column_stack([np.array(scales)[kept], np.array(scales)[following]])
    return Table(
        tuple(sets),
        owner[kept],
        points[kept],
        points[following] - points[kept],
        ends,
        whitening,
        np.array([len(s) for s in sets]),
    )


def _scales(causes: tuple[Cause, ...]) -> tuple[float, ...]:
    """What the unknown resistance of some causes may be, over what is set."""
    kinds = {c.kind for c in causes}
    if Kind.BAD_CORE in kinds:
        return BAD_CORES
    if kinds & {Kind.RESISTANCE_OFF, Kind.ARM_OFF}:
        return SCALES
    return CABLES if kinds & {Kind.OTHER_CIRCUIT, Kind.CABLE_OFF} else (1.0,)


def _whitening(sensor: Sensor, checker: Checker) -> Array:
    """Turns differences of readings into units of what a well-wired sensor may differ by."""
    well = case_of(sensor, ())
    small = 1e-3
    varied = [
        replace(
            well, arms_ohm=tuple((a, ohm * (1 + small * (a == arm))) for a, ohm in well.arms_ohm)
        )
        for arm, _ in well.arms_ohm
    ]
    varied.append(replace(well, core_ohm=sensor.core_ohm * (1 + small) + 1e-4))
    found = readings([well, *varied], checker)
    slopes = (found[1:] - found[0]) / small
    tolerance = np.array([ARM_TOLERANCE] * len(well.arms_ohm) + [LEAD_TOLERANCE])
    spread = slopes * tolerance[:, None]
    errors = np.tile([VOLTAGE_ERROR] * (len(READINGS) - 1) + [CURRENT_ERROR], len(STATES))
    covariance = np.diag(errors**2) + spread.T @ spread
    return np.asarray(np.linalg.inv(np.linalg.cholesky(covariance)))
