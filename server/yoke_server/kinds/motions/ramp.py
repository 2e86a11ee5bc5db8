from typing import Literal

from yoke_server.common.http import fields
from yoke_server.kinds.actions import Action
from yoke_server.kinds.motions.base import Motion


class PositionRamp(Motion):
    """At an even speed to the end of a travel."""

    kind: Literal["ramp"] = "ramp"
    speed_m_s: fields.PullSpeed
    travel_limit_m: fields.Travel

    @property
    def sentence(self) -> str:
        most = f"{self.travel_limit_m * 1e3:g} mm at most"
        return f"Pulled at {self.speed_m_s * 1e3:.3g} mm/s, {most}."

    def begin(self, name: str) -> Action:
        return lambda driver: driver.ramp(name, self.speed_m_s, self.travel_limit_m)
