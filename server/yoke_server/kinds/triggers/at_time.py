from datetime import datetime
from typing import Annotated, Literal

from pydantic import AwareDatetime, Field

from yoke_server.common.clock import laboratory_time
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.triggers.base import Trigger

NOBODY_THERE = Lack(
    "A run that waits for a time of day moves nothing: nobody may be there by then.",
    "Choose no motion, or have it begin otherwise.",
)


class AtTime(Trigger):
    """Kept from a moment on, as Friday at six."""

    kind: Literal["at_time"] = "at_time"
    moment: Annotated[AwareDatetime, Field(strict=False)]

    @property
    def at(self) -> datetime:
        return self.moment

    def lacks(self, setup: MeasuringSetup) -> list[Lack]:
        return [NOBODY_THERE] if setup.motion.moves else []

    def said(self, setup: MeasuringSetup) -> str:
        return f"it is {laboratory_time(self.moment)}"
