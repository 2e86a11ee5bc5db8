"""What is positive of each quantity, and which cores turn it, in words."""

from typing import Any, NamedTuple

from yoke_core.errors import CoreError
from yoke_core.wiring.wiring_case import E_MINUS, E_PLUS, S_MINUS, S_PLUS, Mode

from yoke_server.wire.check.subject import wired_as
from yoke_server.wire.models import Channel, SignTest
from yoke_server.wire.sign.clear import CLEAR, smallest


class Way(NamedTuple):
    """What counts positive of a quantity, and what somebody did who did that, or the other."""

    counts: str
    positive: str
    negative: str


# Tension and clockwise, looking at the shaft's end, are positive.
WAYS = {
    "force": Way("Tension", "Pulled", "Pressed"),
    "strain": Way("Tension", "Stretched the grid", "Compressed it"),
    "torque": Way("Clockwise, seen at the shaft's end", "Turned clockwise", "Anticlockwise"),
    "displacement": Way("Moving out", "Moved it out", "Moved it in"),
    "extension": Way("Opening", "Opened it", "Closed it"),
    "pressure": Way("More pressure", "Raised the pressure", "Lowered it"),
    "temperature": Way("Warmer", "Warmed it", "Cooled it"),
    "angle": Way("Turning up", "Turned it up", "Turned it down"),
}
ELSE = Way("More", "More of it", "Less of it")
# Which two cores turn a bridge when they change places; of a quarter bridge none do.
TURNING_PINS = {
    Mode.FULL: (S_PLUS, S_MINUS), Mode.OPPOSITE: (S_PLUS, S_MINUS), Mode.HALF: (E_PLUS, E_MINUS),
}  # fmt: skip


def sign_out(channel: Channel, test: SignTest | None) -> dict[str, Any]:
    return {
        **WAYS.get(channel.quantity, ELSE)._asdict(), "swap": _swap(channel),
        "clear": CLEAR, "smallest": smallest(channel.unit, channel.decimals),
        "test": test and _test_out(channel, test),
    }  # fmt: skip


def _test_out(channel: Channel, test: SignTest) -> dict[str, Any]:
    old = test.of != wired_as(channel)
    return {"at": test.at, "old": old, "well": test.well, "moved": test.moved}


def _swap(channel: Channel) -> str:
    """The two cores that turn the sign when they change places; none where no exchange does."""
    if not (pins := _turning_pins(channel)):
        return ""
    colours = {c["pin"]: c["colour"] for c in channel.sensor.cores}
    one, other = (colours.get(pin, "") for pin in pins)
    return f"{one} and {other}, pins {pins[0]} and {pins[1]}" if one and other else ""


def _turning_pins(channel: Channel) -> tuple[int, ...]:
    if channel.wiring.kind == "voltage":
        return (1, 2)
    if channel.wiring.kind != "bridge":
        return ()
    try:
        return TURNING_PINS.get(channel.wiring.wiring_case.mode, ())
    except CoreError:  # with fewer cores than it needs: nothing can be said of them
        return ()
