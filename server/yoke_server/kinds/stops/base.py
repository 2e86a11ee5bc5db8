"""The protocol of stop conditions. A run can always be ended by hand too."""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, ClassVar, Self

from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.spec import Spec

if TYPE_CHECKING:
    from yoke_server.kinds.stops.conditions import StopCondition


NO_FORCE = Lack("No channel measures the force that is to end the run.", "Wire one in Wire.")


class Stop(Spec):
    """What ends a run by itself."""

    is_single: ClassVar[bool] = True  # whether a setup can have one of it at most

    @property
    def max_seconds(self) -> float | None:
        """After so many seconds from the first sample it ends the run."""
        return None

    @property
    def max_cycles(self) -> int | None:
        """After so many cycles of the motion it ends the run."""
        return None

    @property
    def ends_with_motion(self) -> bool:
        """Whether the run ends when the actuator has done its motion."""
        return False

    def lacks(self, setup: MeasuringSetup) -> list[Lack]:
        """What the recorded channels or the motion lack for it."""
        return []

    def with_channels(self, keys: Mapping[str, str]) -> Self:
        """The same for a setup whose channels have other keys; ``keys`` are the new by the old."""
        return self

    def conditions(self, setup: MeasuringSetup) -> "Sequence[StopCondition]":
        """What is looked for in samples."""
        return ()


def lacks_force(setup: MeasuringSetup) -> list[Lack]:
    """Why the force cannot be looked at."""
    force = setup.channel("force")
    if force is None:
        return [NO_FORCE]
    lack = setup.unwatchable(force.key)
    return [lack] if lack else []
