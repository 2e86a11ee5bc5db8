"""What can be wrong with a stand-in's input, said in a few words (docs/amplifier-protocol.md)."""

from dataclasses import dataclass

KINDS: dict[str, int] = {  # how many numbers follow
    "broken": 1,  # core on this pin
    "torn": 1,  # this arm
    "swapped": 2,  # cores on these pins
    "resistance": 1,  # all arms times this
    "arm": 2,  # this arm times that
    "other": 1,  # another sensor is plugged in: 1 quarter, 2 half, 4 or 6 full with so many wires
    "nothing": 0,
    "leak": 2,  # ohm from the bridge to the part, and where: 1 at E+, 0 at E-
    "hum": 1,  # V/V, amplitude at 50 Hz
    "drift": 1,  # V/V a second
    "offset": 1,  # V/V, as of an overload
    "flat": 0,
}
MOST = 4


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
        if kind not in KINDS or len(numbers) != KINDS[kind]:
            raise ValueError(f"no fault “{part[:40]}”; known are {', '.join(KINDS)}")
        found.append(Fault(kind, tuple(float(n) for n in numbers)))
    if len(found) > MOST:
        raise ValueError(f"{MOST} faults at most")
    return tuple(found)
