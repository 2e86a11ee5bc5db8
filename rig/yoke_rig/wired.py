"""A plug as wires, pin by pin: what its amplifier reads of it however it is wired.

Pins: 1 excitation +, 2 sense +, 3 signal +, 4 signal -, 5 sense - or completion, 6 excitation -.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from yoke_rig.faults import Fault
from yoke_rig.network import Wiring, node_potentials

Array = NDArray[np.float64]
Branch = tuple[str, str, Array | float]

ARMS = {1: ("T", "L"), 2: ("L", "B"), 3: ("R", "B"), 4: ("T", "R")}
CORES: dict[Wiring, dict[int, str]] = {
    Wiring.FULL_6: {1: "T", 2: "T", 3: "R", 4: "L", 5: "B", 6: "B"},
    Wiring.FULL_4: {1: "T", 3: "R", 4: "L", 6: "B"},
    Wiring.QUARTER_3: {1: "T", 4: "L", 5: "L"},
    Wiring.QUARTER_2: {1: "T", 5: "L"},
    Wiring.HALF_3: {1: "T", 4: "L", 6: "B"},
    Wiring.HALF_5: {1: "T", 2: "T", 4: "L", 5: "B", 6: "B"},
    Wiring.POTENTIOMETER: {1: "T", 4: "L", 6: "B"},
    Wiring.INDUCTIVE: {1: "T", 4: "L", 6: "B"},
    Wiring.NOTHING: {},
}
STRAINED = {
    "full": (1, 2, 3, 4),
    "half": (1, 2),
    "quarter": (1,),
    "potentiometer": (1, 2),
    "inductive half bridge": (1, 2),
    "nothing plugged in": (),
}
MODES = {
    "full": "FULL",
    "half": "HALF",
    "quarter": "QUARTER",
    "potentiometer": "QUARTER",
    "inductive half bridge": "QUARTER",
    "nothing plugged in": "FULL",
}
OTHERS = {1: Wiring.QUARTER_3, 2: Wiring.HALF_3, 4: Wiring.FULL_4, 6: Wiring.FULL_6}
OWN_HALF = ("QUARTER", "HALF")  # the amplifier has two resistors of its own for these
WEAK = 1e10  # ohm, of an input that measures; it draws a pin that nothing holds far off
CHECK_PULL, CHECK_LIFT = 10e6, 0.2  # ohm and V of the same while inputs are checked
LIFT, LIFT_OHM = 10.0, 1e6  # V and ohm that lift the bridge off the part then
DUST = 1e15  # ohm: no node is quite alone


def strained(wiring: Wiring) -> tuple[int, ...]:
    return STRAINED[wiring.partition(",")[0]]


def mode_of(wiring: Wiring) -> str:
    """How an amplifier must be set for it."""
    return MODES[wiring.partition(",")[0]]


@dataclass(frozen=True, slots=True)
class Setting:
    """An amplifier's side: mode, completion (ohm), excitation (V), shunt (ohm) if on, carrier."""

    mode: str
    completion: float
    excitation: float
    shunt: float | None = None
    carrier: float = 0.0  # Hz


class Pins(NamedTuple):
    """Potentials against pin 6, V; the current out of pin 1, A; that to the part, A."""

    sense_plus: Array
    s_plus: Array
    s_minus: Array
    sense_minus: Array
    current: Array
    leak: Array


@dataclass(frozen=True, slots=True)
class Wires:
    """Which core goes from where to where, and each arm's resistance at ``size`` instants."""

    cores: dict[int, str]
    arms: dict[int, Array]
    core_ohm: float
    size: int
    strap: bool  # pins 4 and 5 joined in the plug
    more: tuple[Branch, ...] = ()  # beside what belongs there
    leak_ohm: float = 0.0  # none
    leak_at: float = 0.5


def wires_of(
    wiring: Wiring, arms: dict[int, Array], core_ohm: float, size: int, faults: tuple[Fault, ...]
) -> Wires:
    """A plug's wires with all faults at work."""
    for fault in faults:
        if fault.kind == "other":
            wiring = OTHERS[int(fault.numbers[0])]
            even = float(next(iter(arms.values()))[0]) if arms else 350.0
            arms = {a: np.full(size, even) for a in strained(wiring)}
    well = Wires(dict(CORES[wiring]), dict(arms), core_ohm, size, wiring is Wiring.QUARTER_2)
    # A core that is broken is named by the pin where it ends now: swapped ones come first.
    for fault in sorted(faults, key=lambda f: f.kind != "swapped"):
        if change := CHANGES.get(fault.kind):
            well = change(well, *fault.numbers)
    return well


def _swapped(wires: Wires, one: float, other: float) -> Wires:
    turn = {int(one): int(other), int(other): int(one)}
    return replace(wires, cores={turn.get(p, p): node for p, node in wires.cores.items()})


def _broken(wires: Wires, pin: float) -> Wires:
    return replace(wires, cores={p: node for p, node in wires.cores.items() if p != int(pin)})


def _torn(wires: Wires, arm: float) -> Wires:
    return replace(wires, arms={a: ohm for a, ohm in wires.arms.items() if a != int(arm)})


def _times(wires: Wires, share: float) -> Wires:
    return replace(wires, arms={a: ohm * share for a, ohm in wires.arms.items()})


def _arm_times(wires: Wires, arm: float, share: float) -> Wires:
    arms = {a: ohm * (share if a == int(arm) else 1.0) for a, ohm in wires.arms.items()}
    return replace(wires, arms=arms)


def _bad_core(wires: Wires, pin: float, ohm: float) -> Wires:
    """The core ends in a joint that is no joint any more."""
    joint, pin = f"joint {int(pin)}", int(pin)
    if pin not in wires.cores:
        return wires
    more: Branch = (joint, wires.cores[pin], ohm)
    return replace(wires, cores={**wires.cores, pin: joint}, more=(*wires.more, more))


def _bridged(wires: Wires, one: float, other: float, ohm: float) -> Wires:
    branch: Branch = (f"{int(one)}", f"{int(other)}", ohm)
    return replace(wires, more=(*wires.more, branch)) if one != other else wires


def _shunted(wires: Wires, arm: float, ohm: float) -> Wires:
    """A resistor that somebody holds across an arm, at the sensor."""
    branch: Branch = (*ARMS[int(arm)], ohm)
    return replace(wires, more=(*wires.more, branch))


CHANGES: dict[str, Callable[..., Wires]] = {
    "nothing": lambda w: replace(w, cores={}, strap=False),
    "swapped": _swapped,
    "broken": _broken,
    "torn": _torn,
    "core": _bad_core,
    "bridged": _bridged,
    "shunted": _shunted,
    "resistance": _times,
    "arm": _arm_times,
    "leak": lambda w, ohm, at: replace(w, leak_ohm=ohm, leak_at=at),
}


def _branches(wires: Wires, setting: Setting) -> list[Branch]:
    core = max(wires.core_ohm, 1e-5)
    found: list[Branch] = [(f"{pin}", node, core) for pin, node in wires.cores.items()]
    found += [(*ARMS[arm], ohm) for arm, ohm in wires.arms.items()]
    found += wires.more
    if wires.strap:
        found.append(("4", "5", 1e-5))
    if setting.mode == "QUARTER":
        found.append(("5", "6", setting.completion))
    elif setting.mode == "OPPOSITE":
        found += [("1", "3", setting.completion), ("4", "6", setting.completion)]
    if setting.shunt:
        found.append(("5" if setting.mode == "QUARTER" else "4", "6", setting.shunt))
    return found


def pins_of(
    wires: Wires, setting: Setting, polarity: float = 1.0, pull: float = WEAK, lift: float = 10.0
) -> Pins:
    """What the amplifier sees at its pins; ``pull`` and ``lift`` are what draws loose ones."""
    size, supply = wires.size, polarity * setting.excitation
    held = {
        "1": supply,
        "6": 0.0,
        "mid": supply / 2,
        "up": supply / 2 + lift,
        "down": supply / 2 - lift,
        "high": supply * wires.leak_at,
    }
    branches = _branches(wires, setting)
    branches += [("2", "mid", pull), ("3", "up", pull), ("4", "down", pull)]
    if setting.mode != "QUARTER":
        branches.append(("5", "mid", pull))
    branches += [(node, "6", DUST) for node in ("T", "R", "B", "L", "5")]
    v = node_potentials(branches, held, size)
    current = sum(
        ((v["1"] - v[b]) / ohm for a, b, ohm in branches if a == "1"), start=np.zeros(size)
    )
    s_plus = np.full(size, supply / 2) if setting.mode in OWN_HALF else v["3"]
    leak = np.zeros(size)
    if wires.leak_ohm and wires.cores:
        leak += (LIFT + held["high"]) / (LIFT_OHM + wires.leak_ohm)
    return Pins(v["2"], s_plus, v["4"], v["5"], np.asarray(current), leak)


def ratio(wires: Wires, setting: Setting) -> Array:
    """Output over excitation as it is sampled; where sense cores hold, over theirs."""
    pins = pins_of(wires, setting)
    if setting.mode == "QUARTER" or not {2, 5} <= set(wires.cores):
        return np.asarray((pins.s_plus - pins.s_minus) / setting.excitation)
    sensed = pins.sense_plus - pins.sense_minus
    near = np.abs(sensed / setting.excitation - 1) < 0.5
    middle = (pins.sense_plus + pins.sense_minus) / 2
    s_plus = np.where(near, middle, pins.s_plus) if setting.mode == "HALF" else pins.s_plus
    return np.asarray((s_plus - pins.s_minus) / np.where(near, sensed, setting.excitation))
