from itertools import pairwise
from typing import Annotated, Any, ClassVar, Literal

from pydantic import model_validator
from pydantic_core import PydanticCustomError

from yoke_server.common.http import fields
from yoke_server.kinds.actions import FORCE, Action, Force, LegProgress
from yoke_server.kinds.legs.base import LegOnPaper
from yoke_server.kinds.legs.stepped import SteppedLeg


class SweepLeg(SteppedLeg):
    """From one force to another in even steps; at each it settles, then is averaged."""

    needs: ClassVar = FORCE

    kind: Literal["sweep"] = "sweep"
    from_n: Force
    to_n: Force
    rate_n_s: Annotated[float, fields.between(1e-2, 1e6)]

    @model_validator(mode="after")
    def _some_way(self) -> Any:
        if self.from_n == self.to_n:
            raise PydanticCustomError("rule", "goes from a force to the same one")
        return self

    @property
    def ends(self) -> tuple[float, float]:
        return self.from_n, self.to_n

    def step_words(self, value: float) -> str:
        return f"{value:g} N"

    def on_paper(self, force: float | None) -> LegOnPaper:
        begin = 0.0 if force is None else force
        forces = [begin, *self.values]
        way = sum(abs(b - a) for a, b in pairwise(forces))
        seconds = way / self.rate_n_s + self.count * (self.settle_s + self.average_s)
        return LegOnPaper(seconds, min(forces), max(forces), forces[-1])

    def begin(self, name: str, before: LegProgress) -> Action:
        force = self.values[before.step]
        return lambda driver: driver.force_to(name, self.rate_n_s, force)
