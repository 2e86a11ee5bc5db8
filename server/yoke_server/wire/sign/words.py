"""What is positive of each quantity, and which cores turn it, in words."""

from typing import NamedTuple

from yoke_server.setups.models import Channel


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


def swapped_cores(channel: Channel) -> str:
    """The two cores that turn the sign when they change places; none where no exchange does."""
    if not (pins := channel.wiring.turning_pins):
        return ""
    colours = {c["pin"]: c["colour"] for c in channel.sensor.cores}
    one, other = (colours.get(pin, "") for pin in pins)
    return f"{one} and {other}, pins {pins[0]} and {pins[1]}" if one and other else ""
