"""What ends a run by itself; a new kind is one line in `STOPS`."""

from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from yoke_server.kinds.stops.base import Stop
from yoke_server.kinds.stops.cycles_done import CyclesDone
from yoke_server.kinds.stops.drop import Drop
from yoke_server.kinds.stops.force_drop import ForceDrop
from yoke_server.kinds.stops.limit import Limit
from yoke_server.kinds.stops.motion_end import MotionEnd
from yoke_server.kinds.stops.time_up import TimeUp
from yoke_server.kinds.union import union_of

STOPS: tuple[type[Stop], ...] = (ForceDrop, Drop, TimeUp, CyclesDone, MotionEnd, Limit)

if TYPE_CHECKING:
    StopSpec = Stop
else:
    StopSpec = union_of(STOPS)
StopList = Annotated[list[StopSpec], Field(max_length=12)]
