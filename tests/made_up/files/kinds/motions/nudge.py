from typing import Literal

from yoke_server.common.http import fields
from yoke_server.kinds.actions import Action
from yoke_server.kinds.motions.base import Motion


class Nudge(Motion):
    """A made-up motion: a short way at a fixed speed."""

    kind: Literal["nudge"] = "nudge"
    way_m: fields.Travel

    @property
    def sentence(self) -> str:
        return f"Nudged by {self.way_m * 1e3:g} mm."

    def begin(self, name: str) -> Action:
        return lambda driver: driver.ramp(name, 1e-4, self.way_m)
