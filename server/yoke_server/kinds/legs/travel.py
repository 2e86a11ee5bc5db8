from typing import Annotated, ClassVar, Literal

from yoke_server.bench.drivers.base import Capability
from yoke_server.common.http import fields
from yoke_server.kinds.actions import Action, LegProgress
from yoke_server.kinds.legs.base import Leg, LegOnPaper


class TravelLeg(Leg):
    """At an even speed to a place, where it stays."""

    needs: ClassVar = frozenset({Capability.MOVES})

    kind: Literal["to_travel"] = "to_travel"
    travel_m: Annotated[float, fields.between(-1, 1)]
    speed_m_s: fields.PullSpeed

    @property
    def sentence(self) -> str:
        return f"To {self.travel_m * 1e3:g} mm at {self.speed_m_s * 1e3:g} mm/s."

    def on_paper(self, force: float | None) -> LegOnPaper:
        return LegOnPaper(None)

    def begin(self, name: str, before: LegProgress) -> Action:
        return lambda driver: driver.ramp(name, self.speed_m_s, self.travel_m)

    def is_over(self, progress: LegProgress) -> bool:
        return progress.has_arrived
