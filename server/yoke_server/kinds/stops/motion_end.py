from typing import Literal

from yoke_server.kinds.stops.base import Stop


class MotionEnd(Stop):
    """The actuator has done what it was to do, and stands."""

    kind: Literal["motion_end"] = "motion_end"

    @property
    def ends_with_motion(self) -> bool:
        return True
