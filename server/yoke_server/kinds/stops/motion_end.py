from typing import Literal

from yoke_server.kinds.stops.base import Stop


class MotionEnd(Stop):
    """The motion is complete and the actuator is at rest."""

    kind: Literal["motion_end"] = "motion_end"

    @property
    def ends_with_motion(self) -> bool:
        return True
