from typing import Annotated, Literal

from pydantic import Field

from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.stops.base import Stop, lacks_force

NO_CYCLES = Lack(
    "Cycles are to end the run, and its motion has none.", "Choose a sine, or another end."
)


class CyclesDone(Stop):
    """So many cycles of the force, counted in its samples; of a sine only."""

    kind: Literal["cycles"] = "cycles"
    cycles: Annotated[int, Field(ge=1, le=10**9)]

    @property
    def max_cycles(self) -> int:
        """A motion that has cycles counts them (see its `conditions`)."""
        return self.cycles

    def lacks(self, setup: MeasuringSetup) -> list[Lack]:
        return [*lacks_force(setup), *([] if setup.motion.has_cycles else [NO_CYCLES])]
