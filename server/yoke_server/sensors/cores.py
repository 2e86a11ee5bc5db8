"""The cores of a sensor's cable: their colours, pins and functions."""

from yoke_server.kinds.inputs.base import Sensor

# With how paper shows them; on the screen they are tokens of their own (web/src/ui/tokens.css).
COLOURS = {
    "brown": "#7a4a26",
    "white": "#ffffff",
    "green": "#3f8a4b",
    "yellow": "#e3c52c",
    "grey": "#9a9a96",
    "blue": "#2d5db0",
    "red": "#b3322b",
    "black": "#2b2b2b",
    "pink": "#e79ab5",
    "violet": "#7d4f9e",
    "orange": "#e08a2e",
}


def cores_of(spec: Sensor, colours: dict[int, str]) -> list[dict[str, object]]:
    """The wire colour table; a pin without a colour of its own gets the usual one."""
    return [
        {
            "colour": colours.get(pin) or spec.colours.get(pin, "grey"),
            "pin": pin,
            "function": function,
        }
        for pin, function in spec.pins.items()
    ]
