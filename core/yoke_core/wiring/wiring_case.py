"""Which core of a cable joins which pin of the plug with which corner of the bridge."""

from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cache

from yoke_core.bridge.circuit import NEIGHBOURS, SENSED, Circuit, active_arms
from yoke_core.errors import CoreError

E_PLUS, SENSE_PLUS, S_PLUS, S_MINUS, SENSE_MINUS, E_MINUS = range(1, 7)
COMPLETION = SENSE_MINUS  # a quarter bridge has no lower sense core; its completion takes the pin
FUNCTIONS = {
    E_PLUS: "excitation +",
    SENSE_PLUS: "sense +",
    S_PLUS: "signal +",
    S_MINUS: "signal −",
    SENSE_MINUS: "sense −",
    E_MINUS: "excitation −",
}


class WiringError(CoreError):
    """A sensor cannot be connected or checked as it is described."""


class Mode(StrEnum):
    """What the amplifier completes: three arms, arms 3 and 4, arms 2 and 4, or none.

    The half of arms 3 and 4 is its own: two like resistors between the excitation pins, or, with
    sense cores, between those. It takes the place of S+.
    """

    QUARTER = "quarter"
    HALF = "half"
    OPPOSITE = "opposite"
    FULL = "full"


@dataclass(frozen=True, slots=True)
class Core:
    """One core: from a pin of the plug to a corner of the bridge."""

    pin: int
    node: str  # top, right, bottom or left
    function: str


@dataclass(frozen=True, slots=True)
class WiringCase:
    """A sensor as it is wired: its cores, its arms, pins that the plug joins, the completion."""

    mode: Mode
    cores: tuple[Core, ...]
    arms: tuple[int, ...]
    straps: tuple[tuple[int, int], ...] = ()

    @property
    def pins(self) -> tuple[int, ...]:
        return tuple(c.pin for c in self.cores)

    @property
    def sense_pins(self) -> tuple[int, ...]:
        """Those that only measure the excitation at the sensor."""
        return tuple(c.pin for c in self.cores if c.function.startswith("sense"))

    def swapped(self, one: int, other: int) -> "WiringCase":
        """With two cores in each other's pin."""
        turn = {one: other, other: one}
        return replace(
            self, cores=tuple(replace(c, pin=turn.get(c.pin, c.pin)) for c in self.cores)
        )

    def without(self, pin: int) -> "WiringCase":
        """With one core broken."""
        return replace(self, cores=tuple(c for c in self.cores if c.pin != pin))


CORNERS = {
    E_PLUS: "top",
    SENSE_PLUS: "top",
    S_PLUS: "right",
    S_MINUS: "left",
    SENSE_MINUS: "bottom",
    E_MINUS: "bottom",
}


def _cores(*pins: int) -> tuple[Core, ...]:
    return tuple(Core(pin, CORNERS[pin], FUNCTIONS[pin]) for pin in pins)


@cache
def wiring_case(circuit: Circuit, wires: int) -> WiringCase:
    """How a circuit is wired with so many cores.

    Parameters
    ----------
    circuit : Circuit
    wires : int
        Cores of the cable without its screen. Quarter: 2 (the plug joins pins 4 and 5) or 3;
        neighbours: 3 (both ends and the joint), or 5 with two sense cores; opposite arms and
        full bridges: 4, or 6 with two sense cores. Further cores are not connected.

    Returns
    -------
    WiringCase

    Raises
    ------
    WiringError
        With fewer cores than the circuit needs.

    Examples
    --------
    >>> [core.pin for core in wiring_case(Circuit.QUARTER, 3).cores]
    [1, 4, 5]
    """
    if wires < (least := MIN_CORES[circuit]):
        words = circuit.replace("_", " ")
        raise WiringError(
            "wires",
            f"A {words} bridge needs at least {least} wires, not {wires}.",
            f"Give {least} wires or more.",
        )
    if circuit is Circuit.QUARTER:
        completion = Core(COMPLETION, "left", "completion")
        if wires == 2:
            straps = ((S_MINUS, COMPLETION),)
            return WiringCase(Mode.QUARTER, (*_cores(E_PLUS), completion), (1,), straps)
        return WiringCase(Mode.QUARTER, (*_cores(E_PLUS, S_MINUS), completion), (1,))
    pins = (E_PLUS, S_MINUS, E_MINUS) if circuit in NEIGHBOURS else FOUR
    sense = (SENSE_PLUS, SENSE_MINUS) if wires >= SENSED[circuit] else ()
    mode = MODES.get(circuit, Mode.FULL)
    return WiringCase(mode, _cores(*sorted((*pins, *sense))), active_arms(circuit))


FOUR = (E_PLUS, S_PLUS, S_MINUS, E_MINUS)
MODES = dict.fromkeys(NEIGHBOURS, Mode.HALF) | {Circuit.HALF_OPPOSITE: Mode.OPPOSITE}
MIN_CORES = dict.fromkeys(Circuit, 4) | {
    Circuit.QUARTER: 2,
    Circuit.HALF_BENDING: 3,
    Circuit.HALF_POISSON: 3,
}
