"""What may be wrong with a wiring, each as a change of the sensor that should be there."""

from dataclasses import dataclass, replace
from enum import StrEnum
from itertools import combinations

from yoke_core.bridge.circuit import Circuit
from yoke_core.wiring.network import Case
from yoke_core.wiring.wiring_case import (
    COMPLETION,
    E_MINUS,
    E_PLUS,
    S_MINUS,
    S_PLUS,
    Mode,
    WiringCase,
    wiring_case,
)


class Kind(StrEnum):
    """Kinds of causes, the likelier ones first.

    The first group changes the network, the second what is sampled, the third is of inputs
    that are no bridges.
    """

    NOTHING = "nothing connected"
    BROKEN_CORE = "broken core"
    OPEN_ARM = "open arm"
    SWAPPED = "swapped cores"
    OTHER_CIRCUIT = "other circuit"
    RESISTANCE_OFF = "resistance off"
    ARM_OFF = "arm off"
    BAD_CORE = "bad core"
    CABLE_OFF = "other cable"

    SHORTED = "shorted to the part"
    POOR_INSULATION = "poor insulation"
    CLIPPED = "clipped"
    HUM = "hum"
    DRIFT = "drift"
    FLAT = "flat"
    TURNED = "turned"  # signal or excitation cores, by the known output at rest

    NO_CURRENT = "no current"  # of a loop
    OVER_CURRENT = "too much current"
    OPEN_SENSOR = "open sensor"  # of a resistance
    SHORT_SENSOR = "short sensor"
    UNKNOWN = "unknown"


@dataclass(frozen=True, slots=True, order=True)
class Cause:
    """One thing that is wrong.

    ``pins`` and ``arms`` are those it is about; ``value`` is the resistance found (ohm) of an
    arm that is off, of a bad core, of each core of another cable, or of an insulation, the
    current of a loop (A), the hum (rms) or the drift a second in the signal's unit. ``place`` is
    where a leak lies, 1 at E+ and 0 at E-.
    """

    kind: Kind
    pins: tuple[int, ...] = ()
    arms: tuple[int, ...] = ()
    circuit: str = ""
    value: float | None = None
    place: float | None = None


@dataclass(frozen=True, slots=True)
class Sensor:
    """What should be wired: circuit, cores, resistance of an arm and of a core, ohm.

    ``completion_ohm`` is what the amplifier completes with, ``excitation_v`` its supply.
    """

    circuit: Circuit
    wires: int
    resistance_ohm: float
    core_ohm: float
    completion_ohm: float
    excitation_v: float

    @property
    def wiring_case(self) -> WiringCase:
        return wiring_case(self.circuit, self.wires)


FIRST = {Kind.OTHER_CIRCUIT: 0, Kind.SWAPPED: 1}


def case_of(sensor: Sensor, causes: tuple[Cause, ...], scale: float = 1.0) -> Case:
    """The network with all causes at work.

    ``scale`` is for the one that changes a resistance, over `base_ohm`; where it is another
    sensor that is plugged in, and none of them does, for its cable, which nobody knows.
    """
    wired, mode = sensor.wiring_case, sensor.wiring_case.mode
    kinds = {c.kind for c in causes}
    cable = Kind.CABLE_OFF in kinds or (Kind.OTHER_CIRCUIT in kinds and not kinds & SCALED)
    scales: dict[int, float] = {}
    bad: tuple[int, ...] = ()
    # A core that is broken is named by the pin where it ends now.
    for cause in sorted(causes, key=lambda c: FIRST.get(c.kind, len(FIRST))):
        match cause.kind:
            case Kind.OTHER_CIRCUIT:
                circuit, _, wires = cause.circuit.partition("/")
                wired = wiring_case(Circuit(circuit), int(wires))
            case Kind.NOTHING:
                wired = replace(wired, cores=(), straps=())
            case Kind.BROKEN_CORE:
                wired = wired.without(cause.pins[0])
            case Kind.SWAPPED:
                wired = wired.swapped(*cause.pins)
            case Kind.OPEN_ARM:
                wired = replace(wired, arms=tuple(a for a in wired.arms if a not in cause.arms))
            case Kind.RESISTANCE_OFF | Kind.ARM_OFF:
                scales |= dict.fromkeys(cause.arms, scale)
            case Kind.BAD_CORE:
                bad = cause.pins
            case _:
                pass  # changes nothing in the network
    arms = tuple((a, sensor.resistance_ohm * scales.get(a, 1.0)) for a in wired.arms)
    return Case(
        wired,
        arms,
        max(sensor.core_ohm, MIN_CABLE) * scale if cable else sensor.core_ohm,
        mode,
        sensor.completion_ohm,
        sensor.excitation_v,
        tuple((pin, scale * sensor.resistance_ohm) for pin in bad),
    )


def base_ohm(sensor: Sensor, kind: Kind) -> float:
    """What the scale of a cause is over, ohm."""
    cable = kind in (Kind.CABLE_OFF, Kind.OTHER_CIRCUIT)
    return max(sensor.core_ohm, MIN_CABLE) if cable else sensor.resistance_ohm


OTHERS = (
    (Circuit.QUARTER, 3),
    (Circuit.QUARTER, 2),
    (Circuit.HALF_BENDING, 3),
    (Circuit.FULL_AXIAL, 4),
    (Circuit.FULL_AXIAL, 6),
)
# Pins whose cores carry enough current for their resistance to show.
BEARING = {
    Mode.QUARTER: {E_PLUS, COMPLETION},
    Mode.HALF: {E_PLUS, E_MINUS},
    Mode.OPPOSITE: {E_PLUS, S_PLUS, S_MINUS, E_MINUS},
    Mode.FULL: {E_PLUS, E_MINUS},
}
MIN_CABLE = 0.1  # ohm of a core, over which another cable counts where none is set
SCALED = frozenset({Kind.RESISTANCE_OFF, Kind.ARM_OFF, Kind.BAD_CORE, Kind.CABLE_OFF})


def single_causes(sensor: Sensor) -> list[Cause]:
    """Everything that may be wrong with the network of a sensor, one thing at a time."""
    wired = sensor.wiring_case
    found = [Cause(Kind.NOTHING)]
    found += [Cause(Kind.BROKEN_CORE, pins=(p,)) for p in wired.pins]
    found += [Cause(Kind.OPEN_ARM, arms=(a,)) for a in wired.arms]
    found += [
        Cause(Kind.SWAPPED, pins=(one.pin, other.pin))
        for one, other in combinations(wired.cores, 2)
        if one.node != other.node  # else nothing changes
    ]
    found += [
        Cause(Kind.OTHER_CIRCUIT, circuit=f"{circuit}/{wires}")
        for circuit, wires in OTHERS
        if wiring_case(circuit, wires).mode is not wired.mode
    ]
    found.append(Cause(Kind.RESISTANCE_OFF, arms=wired.arms))
    if len(wired.arms) > 1:
        found += [Cause(Kind.ARM_OFF, arms=(a,)) for a in wired.arms]
    bearing = BEARING[wired.mode] & set(wired.pins)
    found += [Cause(Kind.BAD_CORE, pins=(p,)) for p in sorted(bearing)]
    return [*found, Cause(Kind.CABLE_OFF)]


def go_together(sensor: Sensor, one: Cause, other: Cause) -> bool:
    """Whether two causes together differ from each alone; False where one hides the other."""
    kinds = {one.kind, other.kind}
    if Kind.NOTHING in kinds or one == other:
        return False
    if kinds == {Kind.OTHER_CIRCUIT}:
        return False
    if kinds <= SCALED or kinds & {Kind.BAD_CORE, Kind.CABLE_OFF}:
        return False
    sense = set(sensor.wiring_case.sense_pins)
    swaps = [sense & set(c.pins) for c in (one, other) if c.kind is Kind.SWAPPED]
    if any(pins and pins != sense for pins in swaps):
        return False  # a sense core in a current one's pin is enough by itself
    if kinds == {Kind.SWAPPED} and set(one.pins) & set(other.pins):
        return False
    return not (kinds & SCALED and Kind.OPEN_ARM in kinds and set(one.arms) == set(other.arms))
