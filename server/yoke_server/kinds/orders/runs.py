"""Orders about runs and what moves."""

from typing import ClassVar, Literal, Self

from yoke_server.bench.orders import OrderAnswer, OrderSpec


class RunBegun(OrderAnswer):
    """The number of the run."""

    run: int


class StartRun(OrderSpec):
    """Begin a run of a revision; with ``pull`` its motion begins once it is recorded.

    is_dry : all of it is played, guards included, and nothing is kept
    operator : the number of a person
    accepted : what was open in the preflight list, and is to be stored with the run
    answers : to what the setup asks for at a start
    """

    answer: ClassVar = RunBegun

    kind: Literal["start"] = "start"
    revision: int
    pull: bool = False
    is_dry: bool = False
    operator: int | None = None
    accepted: list[str] = []
    answers: dict[str, str] = {}

    @property
    def setup_revision(self) -> int:
        return self.revision


class OfRun(OrderSpec):
    """An order about the run that is recorded; ``operator`` is the number of a person."""

    is_taken_in_run: ClassVar = True

    run: int
    operator: int | None = None

    @classmethod
    def about(cls, run: int, operator: int) -> Self:
        return cls.model_validate({"run": run, "operator": operator})


class MarkRun(OfRun):
    """Name this instant."""

    kind: Literal["mark"] = "mark"
    text: str


class PauseRun(OfRun):
    """Have nothing move, and keep no samples until the run is to go on."""

    kind: Literal["pause"] = "pause"


class GoOn(OfRun):
    """End a pause, resume what is held, or say that what a leg waits for is done."""

    kind: Literal["go_on"] = "go_on"


class HoldHere(OfRun):
    """Have what moves stand; samples are kept."""

    kind: Literal["hold"] = "hold"


class SkipLeg(OfRun):
    """Go to the next leg of the programme."""

    kind: Literal["skip"] = "skip"


class EndGently(OfRun):
    """Go to no load at the programme's own rate; then it is over."""

    kind: Literal["unload"] = "unload"


class ReturnHome(OrderSpec):
    """Drive the actuator home."""

    kind: Literal["return"] = "return"


class ReleaseStop(OrderSpec):
    """Let things move again after an emergency stop."""

    is_taken_always: ClassVar = True

    kind: Literal["release"] = "release"


class ResetPeaks(OrderSpec):
    """Reset lowest and highest; of all channels without ``channels``."""

    is_taken_always: ClassVar = True

    kind: Literal["reset_peaks"] = "reset_peaks"
    channels: list[str] = []
