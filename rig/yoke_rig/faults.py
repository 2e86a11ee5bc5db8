"""What can be wrong with a stand-in's input, said in a few words (docs/amplifier-protocol.md)."""

from dataclasses import dataclass

PIN, ARM = (1.0, 6.0), (1.0, 4.0)
TIMES = (1e-3, 1e3)
OHM = (1e-3, 1e9)
SMALL = (-1.0, 1.0)  # V/V
KINDS: dict[str, tuple[tuple[float, float], ...]] = {  # which numbers follow, from where to where
    "broken": (PIN,),  # core on this pin
    "torn": (ARM,),
    "swapped": (PIN, PIN),  # cores on these pins
    "core": (PIN, OHM),  # so many ohm more in the core on this pin
    "bridged": (PIN, PIN, OHM),  # so many ohm between these pins
    "shunted": (ARM, OHM),  # so many ohm across this arm, at the sensor
    "resistance": (TIMES,),  # all arms times this
    "arm": (ARM, TIMES),  # this arm times that
    "other": (PIN,),  # another sensor is plugged in: 1 quarter, 2 half, 4 or 6 full so many wires
    "nothing": (),
    "leak": ((0.1, 1e13), (0.0, 1.0)),  # ohm from bridge to part, and where: 1 at E+, 0 at E-
    "hum": (SMALL,),  # V/V, amplitude at 50 Hz
    "drift": (SMALL,),  # V/V a second
    "offset": (SMALL,),  # V/V, as of an overload
    "flat": (),
}
SENSORS = (1, 2, 4, 6)
MAX_FAULTS = 4


@dataclass(frozen=True, slots=True)
class Fault:
    kind: str
    numbers: tuple[float, ...] = ()

    def __str__(self) -> str:
        return " ".join([self.kind, *(f"{n:g}" for n in self.numbers)])


def read_faults(text: str) -> tuple[Fault, ...]:
    """From `broken 5, hum 3e-6`; nothing, or `none`, for an input that is well.

    Raises ValueError for what is not known.
    """
    found = []
    for part in filter(None, (p.strip().lower() for p in text.split(","))):
        kind, *numbers = part.split()
        if kind == "none" and not numbers:
            continue
        found.append(Fault(kind, _numbers(kind, numbers, part)))
    if len(found) > MAX_FAULTS:
        raise ValueError(f"{MAX_FAULTS} faults at most")
    return tuple(found)


def _numbers(kind: str, numbers: list[str], part: str) -> tuple[float, ...]:
    """Each within its bounds: a stand-in must live through whatever it is told."""
    bounds = KINDS.get(kind)
    if bounds is None or len(numbers) != len(bounds):
        raise ValueError(f"no fault “{part[:40]}”; known are {', '.join(KINDS)}")
    found = tuple(float(n) for n in numbers)
    for value, (least, most) in zip(found, bounds, strict=True):
        if not least <= value <= most or ((least, most) in (PIN, ARM) and value != int(value)):
            raise ValueError(f"“{part[:40]}” is out of its bounds, {least:g} to {most:g}")
    if kind == "other" and found[0] not in SENSORS:
        raise ValueError(f"no sensor {found[0]:g}; known are {', '.join(map(str, SENSORS))}")
    return found
