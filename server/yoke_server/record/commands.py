"""What people have a run do while it is recorded, by name."""

from enum import StrEnum

from yoke_server.kinds.orders.runs import EndGently, GoOn, HoldHere, OfRun, PauseRun, SkipLeg


class Command(StrEnum):
    PAUSE = "pause"
    GO_ON = "go_on"
    HOLD = "hold"
    SKIP = "skip"
    UNLOAD = "unload"


ORDERS: dict[Command, type[OfRun]] = {
    Command.PAUSE: PauseRun,
    Command.GO_ON: GoOn,
    Command.HOLD: HoldHere,
    Command.SKIP: SkipLeg,
    Command.UNLOAD: EndGently,
}
SAID: dict[Command, str] = {
    Command.PAUSE: "Paused",
    Command.GO_ON: "Had it go on:",
    Command.HOLD: "Held",
    Command.SKIP: "Skipped a leg of",
    Command.UNLOAD: "Ended gently",
}
