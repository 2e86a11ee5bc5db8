"""What a bench may be doing, and which orders it takes meanwhile. Stops are taken always."""

from yoke_server.bench.orders import OrderSpec
from yoke_server.kinds.orders import ORDERS
from yoke_server.live.protocol import Phase

Orders = frozenset[type[OrderSpec]]
IN_RUN: Orders = frozenset(o for o in ORDERS if o.is_taken_in_run)
OF_BENCHES: Orders = frozenset(o for o in ORDERS if not o.asks_network) - IN_RUN
ALWAYS: Orders = frozenset(o for o in OF_BENCHES if o.is_taken_always)
# Orders that are taken in each phase; all others are refused with a reason.
TAKEN: dict[Phase, Orders] = {
    Phase.TAKING_UP: frozenset(),
    Phase.IDLE: OF_BENCHES,
    Phase.ARMING: ALWAYS,
    Phase.BEGINNING: ALWAYS,
    Phase.RECORDING: ALWAYS | IN_RUN,
    Phase.CLOSING: frozenset(),
    Phase.MEASURING: ALWAYS,
    Phase.SHUNTING: ALWAYS,
    Phase.CHECKING: ALWAYS,
}
DOING: dict[Phase, str] = {
    Phase.TAKING_UP: "The recorder has just started.",
    Phase.IDLE: "No run is being recorded.",
    Phase.ARMING: "A run is about to begin.",
    Phase.BEGINNING: "A run is about to begin.",
    Phase.RECORDING: "A run is being recorded.",
    Phase.CLOSING: "The last run is being closed.",
    Phase.MEASURING: "Channels are being measured.",
    Phase.SHUNTING: "The shunts are being checked.",
    Phase.CHECKING: "The wiring is being checked.",
}
SHORTLY = "Try again in a second."
HINT: dict[Phase, str] = {
    Phase.TAKING_UP: SHORTLY,
    Phase.IDLE: "",
    Phase.ARMING: "Wait a second, or stop it.",
    Phase.BEGINNING: "Wait a second, or stop it.",
    Phase.RECORDING: "Stop it first.",
    Phase.CLOSING: SHORTLY,
    Phase.MEASURING: SHORTLY,
    Phase.SHUNTING: "Try again in some seconds.",
    Phase.CHECKING: "Try again in some seconds.",
}
_ONE_AT_A_TIME = frozenset({Phase.ARMING, Phase.MEASURING, Phase.SHUNTING, Phase.CHECKING})
# What one phase may be followed by.
FOLLOWS: dict[Phase, frozenset[Phase]] = {
    Phase.TAKING_UP: frozenset({Phase.IDLE, Phase.RECORDING}),
    Phase.IDLE: _ONE_AT_A_TIME,
    Phase.ARMING: frozenset({Phase.BEGINNING, Phase.IDLE}),
    Phase.BEGINNING: frozenset({Phase.RECORDING, Phase.IDLE}),
    Phase.RECORDING: frozenset({Phase.CLOSING}),
    Phase.CLOSING: frozenset({Phase.IDLE}),
    Phase.MEASURING: frozenset({Phase.IDLE}),
    Phase.SHUNTING: frozenset({Phase.IDLE}),
    Phase.CHECKING: frozenset({Phase.IDLE}),
}
RETURNS = frozenset({Phase.IDLE, *_ONE_AT_A_TIME} - {Phase.ARMING})  # in which it may go home


class Refused(Exception):
    """An order that cannot be carried out, with the hint for the person who gave it."""

    def __init__(self, title: str, hint: str = "") -> None:
        super().__init__(title)
        self.hint = hint
