"""What an amplifier's check must read of a sensor that is wired so, for many cases at once."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yoke_core.wiring.hookup import (
    COMPLETION,
    E_MINUS,
    E_PLUS,
    S_MINUS,
    S_PLUS,
    SENSE_MINUS,
    SENSE_PLUS,
    Hookup,
    Mode,
)

Array = NDArray[np.float64]
Branch = tuple[str, str, float]

CORNERS_OF_ARM = {
    1: ("top", "left"), 2: ("top", "right"), 3: ("right", "bottom"), 4: ("left", "bottom"),
}  # fmt: skip
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
    does not follow when the excitation is reversed. ``shunt_ohm`` lies across arm 4.
    """

    bias_ohm: float = 10e6
    bias_v: float = 0.2
    shunt_ohm: float = 100e3


CHECKER = Checker()


@dataclass(frozen=True, slots=True)
class Case:
    """A sensor with the amplifier's settings: resistances in ohm, excitation in V."""

    hookup: Hookup
    arms_ohm: tuple[tuple[int, float], ...]
    core_ohm: float
    mode: Mode
    completion_ohm: float
    excitation_v: float


def branches(case: Case) -> list[Branch]:
    """All resistors between nodes; pins are p1 to p6, p6 at 0, p1 at the excitation."""
    core = max(case.core_ohm, 1e-4)  # keeps the equations well-conditioned
    found: list[Branch] = [(f"p{c.pin}", c.node, core) for c in case.hookup.cores]
    found += [(f"p{one}", f"p{other}", 1e-3) for one, other in case.hookup.straps]
    found += [(*CORNERS_OF_ARM[arm], ohm) for arm, ohm in case.arms_ohm]
    found += [(one, other, case.completion_ohm) for one, other in COMPLETED[case.mode]]
    return found


COMPLETED = {
    Mode.QUARTER: ((f"p{COMPLETION}", f"p{E_MINUS}"),),
    Mode.HALF: ((f"p{S_PLUS}", f"p{E_MINUS}"), (f"p{S_MINUS}", f"p{E_MINUS}")),
    Mode.OPPOSITE: ((f"p{E_PLUS}", f"p{S_PLUS}"), (f"p{S_MINUS}", f"p{E_MINUS}")),
    Mode.FULL: (),
}  # fmt: skip


def readings(cases: Sequence[Case], checker: Checker) -> Array:
    """What the check reads, shape (cases, 15): `READINGS` in each of `STATES`.

    Voltages over the excitation, ``current`` out of pin 1 in units of excitation over the
    completion resistance. ``signal`` is S+ less S-, ``common`` their mean less half the supply.
    In a quarter bridge S+ is the amplifier's own half bridge, and ``sense_minus`` the pin of
    the completion.

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
    cases: Sequence[Case], matrix: Array, drive: Array, checker: Checker, polarity: float,
    shunted: bool,
) -> Array:  # fmt: skip
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
    plus = np.where(quarter, half, v[:, PLACE["p3"]])
    minus = v[:, PLACE["p4"]]
    unit = np.array([c.completion_ohm for c in cases])
    return np.column_stack(
        [
            plus - minus, (plus + minus) / 2 - half, v[:, PLACE["p2"]], v[:, PLACE["p5"]],
            current * unit,
        ]
    )  # fmt: skip
