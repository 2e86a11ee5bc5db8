"""Predicted readings of the amplifier's wiring check for many wiring cases at once."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yoke_core.wiring.wiring_case import (
    COMPLETION,
    E_MINUS,
    E_PLUS,
    S_MINUS,
    S_PLUS,
    SENSE_MINUS,
    SENSE_PLUS,
    Mode,
    WiringCase,
)

Array = NDArray[np.float64]
Branch = tuple[str, str, float]

CORNERS_OF_ARM = {
    1: ("top", "left"),
    2: ("left", "bottom"),
    3: ("right", "bottom"),
    4: ("top", "right"),
}
UNKNOWN = ("p2", "p3", "p4", "p5", "top", "right", "bottom", "left")
PLACE = {name: i for i, name in enumerate(UNKNOWN)}
LOOSE = 1e-12  # S, by which a node that nothing holds keeps a potential
STATES = ("plus", "minus", "shunt")
READINGS = ("signal", "common", "sense_plus", "sense_minus", "current")


@dataclass(frozen=True, slots=True)
class Checker:
    """What an amplifier checks with.

    ``bias_ohm`` pulls each input that only measures towards the middle of the supply, the two
    signal inputs ``bias_v`` off it to either side: so a pin that nothing holds shows, for it
    does not follow when the excitation is reversed. ``shunt_ohm`` lies across arm 2.
    """

    bias_ohm: float = 10e6
    bias_v: float = 0.2
    shunt_ohm: float = 100e3


CHECKER = Checker()


@dataclass(frozen=True, slots=True)
class Case:
    """A sensor with the amplifier's settings: resistances in ohm, excitation in V."""

    wiring_case: WiringCase
    arms_ohm: tuple[tuple[int, float], ...]
    core_ohm: float
    mode: Mode
    completion_ohm: float
    excitation_v: float
    more_ohm: tuple[tuple[int, float], ...] = ()  # of bad cores, by pin


def branches(case: Case) -> list[Branch]:
    """All resistors between nodes; pins are p1 to p6, p6 at 0, p1 at the excitation."""
    core, more = max(case.core_ohm, 1e-4), dict(case.more_ohm)  # keeps them well-conditioned
    found: list[Branch] = [
        (f"p{c.pin}", c.node, core + more.get(c.pin, 0.0)) for c in case.wiring_case.cores
    ]
    found += [(f"p{one}", f"p{other}", 1e-3) for one, other in case.wiring_case.straps]
    found += [(*CORNERS_OF_ARM[arm], ohm) for arm, ohm in case.arms_ohm]
    found += [(one, other, case.completion_ohm) for one, other in COMPLETED[case.mode]]
    return found


COMPLETED = {
    Mode.QUARTER: ((f"p{COMPLETION}", f"p{E_MINUS}"),),
    Mode.HALF: (),  # its own half bridge, which no current of the sensor goes through
    Mode.OPPOSITE: ((f"p{E_PLUS}", f"p{S_PLUS}"), (f"p{S_MINUS}", f"p{E_MINUS}")),
    Mode.FULL: (),
}
OWN_HALF = frozenset({Mode.QUARTER, Mode.HALF})  # S+ is the middle of the amplifier's own


def readings(cases: Sequence[Case], checker: Checker) -> Array:
    """What the check reads, shape (cases, 15): `READINGS` in each of `STATES`.

    Voltages over the excitation, ``current`` out of pin 1 in units of excitation over the
    completion resistance. ``signal`` is S+ less S-, ``common`` their mean less half the supply.
    In quarter and half bridges S+ is the amplifier's own half bridge; in a quarter bridge
    ``sense_minus`` is the pin of the completion.

    Notes
    -----
    Kirchhoff's current law at each node, all cases in one batch of linear equations.
    """
    listed = [branches(case) for case in cases]
    matrix, drive = _assembled(listed)
    found = [
        _solved(cases, matrix, drive, checker, polarity, shunted)
        for polarity, shunted in ((1.0, False), (-1.0, False), (1.0, True))
    ]
    return np.concatenate(found, axis=1)


def output_ratio(case: Case, shunt: Branch | None = None) -> float:
    """What the amplifier samples of a sensor at rest: output over excitation, V/V.

    With two sense cores the excitation counts at the sensor, else at the amplifier's pins. A
    shunt is one resistor more, between any two nodes.
    """
    found = [*branches(case), *([shunt] if shunt else [])]
    matrix, drive = _assembled([found])
    v = dict(zip(UNKNOWN, np.linalg.solve(matrix, drive[:, :, None])[0, :, 0], strict=True))
    sensed = {SENSE_PLUS, SENSE_MINUS} <= set(case.wiring_case.sense_pins)
    high, low = (v["p2"], v["p5"]) if sensed else (1.0, 0.0)
    plus = (high + low) / 2 if case.mode in OWN_HALF else v["p3"]
    return float((plus - v["p4"]) / (high - low))


def _assembled(listed: Sequence[Sequence[Branch]]) -> tuple[Array, Array]:
    """Conductance between unknown nodes, and from each of them to pin 1."""
    size = len(UNKNOWN)
    matrix = np.zeros((len(listed), size, size))
    drive = np.zeros((len(listed), size))
    for k, one in enumerate(listed):
        for a, b, ohm in one:
            g = 1.0 / ohm
            for here, there in ((a, b), (b, a)):
                i = PLACE.get(here)
                if i is None:
                    continue
                matrix[k, i, i] += g
                if there == "p1":
                    drive[k, i] += g
                elif (j := PLACE.get(there)) is not None:
                    matrix[k, i, j] -= g
    matrix[:, range(size), range(size)] += LOOSE
    return matrix, drive


def _solved(
    cases: Sequence[Case],
    matrix: Array,
    drive: Array,
    checker: Checker,
    polarity: float,
    shunted: bool,
) -> Array:
    matrix, right = matrix.copy(), polarity * drive
    quarter = np.array([c.mode is Mode.QUARTER for c in cases])
    lift = checker.bias_v / np.array([c.excitation_v for c in cases])
    pull = 1.0 / checker.bias_ohm
    for pin, side in ((SENSE_PLUS, 0), (S_PLUS, 1), (S_MINUS, -1), (SENSE_MINUS, 0)):
        i = PLACE[f"p{pin}"]
        pulled = np.where(quarter & (pin == COMPLETION), 0.0, pull)
        matrix[:, i, i] += pulled
        right[:, i] += pulled * (polarity / 2 + side * lift)
    if shunted:
        for i, at in ((PLACE["p5"], quarter), (PLACE["p4"], ~quarter)):
            matrix[at, i, i] += 1.0 / checker.shunt_ohm
    v = np.linalg.solve(matrix, right[:, :, None])[:, :, 0]
    current = (drive * (polarity - v)).sum(axis=1)
    half = polarity / 2
    own_half = np.array([c.mode in OWN_HALF for c in cases])
    plus = np.where(own_half, half, v[:, PLACE["p3"]])
    minus = v[:, PLACE["p4"]]
    unit = np.array([c.completion_ohm for c in cases])
    return np.column_stack(
        [
            plus - minus,
            (plus + minus) / 2 - half,
            v[:, PLACE["p2"]],
            v[:, PLACE["p5"]],
            current * unit,
        ]
    )
