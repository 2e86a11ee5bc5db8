"""What the actuator does while a run is recorded; a new kind is one line in `MOTIONS`."""

from typing import TYPE_CHECKING

from yoke_server.kinds.motions.base import Motion
from yoke_server.kinds.motions.force_ramp import ForceRamp
from yoke_server.kinds.motions.force_sine import ForceSine
from yoke_server.kinds.motions.no_motion import NoMotion
from yoke_server.kinds.motions.programme import Programme
from yoke_server.kinds.motions.ramp import PositionRamp
from yoke_server.kinds.union import union_of

MOTIONS: tuple[type[Motion], ...] = (NoMotion, PositionRamp, ForceRamp, ForceSine, Programme)

if TYPE_CHECKING:
    MotionSpec = Motion
else:
    MotionSpec = union_of(MOTIONS)
