"""What a bench may be doing, and which orders it takes meanwhile."""

from enum import StrEnum


class Phase(StrEnum):
    IDLE = "idle"
    ARMING = "arming"  # settings are brought in force and read back
    BEGINNING = "beginning"  # the run is being written to the database
    RECORDING = "recording"
    MEASURING = "measuring"  # channels at rest, for a zero
    SHUNTING = "shunting"  # the shunt is on, or about to be switched
    CHECKING = "checking"  # the wiring is being measured


ALWAYS = frozenset({"emergency", "reset_peaks", "pretend"})
# Orders that are taken in each phase; all others are refused with a reason.
TAKEN: dict[Phase, frozenset[str]] = {
    Phase.IDLE: ALWAYS
    | {"start", "measure", "shunt", "check", "return", "read_sheets", "write_sheet"},
    Phase.ARMING: ALWAYS | {"stop"},
    Phase.BEGINNING: ALWAYS | {"stop"},
    Phase.RECORDING: ALWAYS | {"stop"},
    Phase.MEASURING: ALWAYS,
    Phase.SHUNTING: ALWAYS,
    Phase.CHECKING: ALWAYS,
}
KNOWN = frozenset().union(*TAKEN.values())

DOING: dict[Phase, str] = {
    Phase.IDLE: "No run is being recorded.",
    Phase.ARMING: "A run is about to begin.",
    Phase.BEGINNING: "A run is about to begin.",
    Phase.RECORDING: "A run is being recorded.",
    Phase.MEASURING: "Channels are being measured.",
    Phase.SHUNTING: "The shunts are being checked.",
    Phase.CHECKING: "The wiring is being checked.",
}
HINT: dict[Phase, str] = {
    Phase.IDLE: "",
    Phase.ARMING: "Wait a second, or stop it.",
    Phase.BEGINNING: "Wait a second, or stop it.",
    Phase.RECORDING: "Stop it first.",
    Phase.MEASURING: "Try again in a second.",
    Phase.SHUNTING: "Try again in some seconds.",
    Phase.CHECKING: "Try again in some seconds.",
}

# What one phase may be followed by.
FOLLOWS: dict[Phase, frozenset[Phase]] = {
    Phase.IDLE: frozenset(
        {Phase.ARMING, Phase.MEASURING, Phase.SHUNTING, Phase.CHECKING, Phase.RECORDING}
    ),
    Phase.ARMING: frozenset({Phase.BEGINNING, Phase.IDLE}),
    Phase.BEGINNING: frozenset({Phase.RECORDING, Phase.IDLE}),
    Phase.RECORDING: frozenset({Phase.IDLE}),
    Phase.MEASURING: frozenset({Phase.IDLE}),
    Phase.SHUNTING: frozenset({Phase.IDLE}),
    Phase.CHECKING: frozenset({Phase.IDLE}),
}


class Refused(Exception):
    """An order that cannot be carried out, with the hint for the person who gave it."""

    def __init__(self, title: str, hint: str = "") -> None:
        super().__init__(title)
        self.hint = hint
