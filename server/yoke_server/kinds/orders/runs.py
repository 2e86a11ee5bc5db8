"""Orders about runs and what moves."""

from typing import ClassVar, Literal

from yoke_server.bench.orders import OrderAnswer, OrderSpec


class RunBegun(OrderAnswer):
    """The number of the run."""

    run: int


class StartRun(OrderSpec):
    """Begin a run of a revision; with ``pull`` its motion begins once it is recorded.

    operator : the number of a person
    """

    answer: ClassVar = RunBegun

    kind: Literal["start"] = "start"
    revision: int
    pull: bool = False
    operator: int | None = None

    @property
    def setup_revision(self) -> int:
        return self.revision


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
