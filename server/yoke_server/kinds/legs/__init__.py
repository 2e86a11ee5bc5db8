"""The parts of a programme; a new kind is one line in `LEGS`."""

from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from yoke_server.kinds.legs.base import Leg
from yoke_server.kinds.legs.force import ForceLeg
from yoke_server.kinds.legs.history import HistoryLeg
from yoke_server.kinds.legs.hold import HoldLeg
from yoke_server.kinds.legs.output import OutputLeg
from yoke_server.kinds.legs.random import RandomLeg
from yoke_server.kinds.legs.repeat import RepeatLeg
from yoke_server.kinds.legs.settle import SettleLeg
from yoke_server.kinds.legs.sweep import SweepLeg
from yoke_server.kinds.legs.to_reading import ToReadingLeg
from yoke_server.kinds.legs.travel import TravelLeg
from yoke_server.kinds.legs.travel_sweep import TravelSweepLeg
from yoke_server.kinds.legs.wait import WaitLeg
from yoke_server.kinds.legs.wave import WaveLeg
from yoke_server.kinds.union import union_of

LEGS: tuple[type[Leg], ...] = (
    ForceLeg,
    TravelLeg,
    ToReadingLeg,
    HoldLeg,
    SettleLeg,
    WaveLeg,
    RandomLeg,
    HistoryLeg,
    SweepLeg,
    TravelSweepLeg,
    OutputLeg,
    RepeatLeg,
    WaitLeg,
)

if TYPE_CHECKING:
    LegSpec = Leg
else:
    LegSpec = union_of(LEGS)
MAX_LEGS = 50
LegList = Annotated[list[LegSpec], Field(min_length=1, max_length=MAX_LEGS)]
