"""The protocol of motions. Pulling is positive."""

from collections.abc import Sequence
from typing import TYPE_CHECKING, Annotated, ClassVar

from yoke_server.bench.drivers.base import Capability
from yoke_server.common.http import fields
from yoke_server.kinds.actions import Action
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.spec import Spec

if TYPE_CHECKING:
    from yoke_server.kinds.stops.conditions import StopCondition

Force = Annotated[float, fields.between(-1e6, 1e6)]  # N
FORCE = frozenset({Capability.MOVES, Capability.CONTROLS_FORCE})


class Motion(Spec):
    """What the actuator does while a run is recorded.

    ``needs`` is what the actuator must be able to; nothing where none is needed.
    """

    needs: ClassVar[frozenset[Capability]] = frozenset({Capability.MOVES})
    has_cycles: ClassVar[bool] = False  # whether its cycles can be counted

    @property
    def moves(self) -> bool:
        return bool(self.needs)

    @property
    def sentence(self) -> str:
        """As reports print it."""
        raise NotImplementedError

    def begin(self, name: str) -> Action:
        """Start the motion through a driver, under a name."""
        raise NotImplementedError

    def lacks(self, setup: MeasuringSetup) -> list[Lack]:
        """Why its `conditions` could not be looked at."""
        return []

    def conditions(self, setup: MeasuringSetup) -> "Sequence[StopCondition]":
        """What is watched for in the samples of a run with it, beside the run's stop conditions."""
        return ()
