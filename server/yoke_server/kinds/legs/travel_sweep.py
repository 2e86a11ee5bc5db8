from typing import Annotated, ClassVar, Literal

from pydantic import model_validator
from pydantic_core import PydanticCustomError

from yoke_server.bench.drivers.base import Capability
from yoke_server.common.http import fields
from yoke_server.kinds.actions import Action, LegProgress
from yoke_server.kinds.legs.base import LegOnPaper
from yoke_server.kinds.legs.stepped import SteppedLeg

Place = Annotated[float, fields.between(-1, 1)]  # m


class TravelSweepLeg(SteppedLeg):
    """From one travel to another in even steps; at each it settles, then is averaged."""

    needs: ClassVar = frozenset({Capability.MOVES})

    kind: Literal["travel_sweep"] = "travel_sweep"
    from_m: Place
    to_m: Place
    speed_m_s: fields.PullSpeed

    @model_validator(mode="after")
    def _some_way(self) -> "TravelSweepLeg":
        if self.from_m == self.to_m:
            raise PydanticCustomError("rule", "goes from a travel to the same one")
        return self

    @property
    def ends(self) -> tuple[float, float]:
        return self.from_m, self.to_m

    def step_words(self, value: float) -> str:
        return f"{value * 1e3:g} mm"

    def on_paper(self, force: float | None) -> LegOnPaper:
        return LegOnPaper(None)

    def begin(self, name: str, before: LegProgress) -> Action:
        travel = self.values[before.step]
        return lambda driver: driver.ramp(name, self.speed_m_s, travel)
