from itertools import pairwise
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError

from yoke_server.common.http import fields
from yoke_server.kinds.actions import FORCE, Action, Force, LegProgress
from yoke_server.kinds.legs.base import Leg, LegOnPaper

MAX_STEPS = 200


class SweepLeg(Leg):
    """From one force to another in even steps; at each it settles, then is averaged.

    The averages of all channels are rows of the run's table of steps.

    steps : forces, both ends among them
    back : whether it goes down the same steps again
    """

    needs: ClassVar = FORCE

    kind: Literal["sweep"] = "sweep"
    from_n: Force
    to_n: Force
    steps: Annotated[int, Field(ge=2, le=MAX_STEPS)]
    rate_n_s: Annotated[float, fields.between(1e-2, 1e6)]
    settle_s: Annotated[float, fields.between(0, 3600)] = 2.0
    average_s: Annotated[float, fields.between(0.1, 3600)] = 1.0
    back: bool = False

    @model_validator(mode="after")
    def _some_way(self) -> Any:
        if self.from_n == self.to_n:
            raise PydanticCustomError("rule", "goes from a force to the same one")
        return self

    @property
    def forces(self) -> list[float]:
        """Of each step, N."""
        width = (self.to_n - self.from_n) / (self.steps - 1)
        up = [self.from_n + width * i for i in range(self.steps - 1)] + [self.to_n]
        return [*up, *up[-2::-1]] if self.back else up

    @property
    def count(self) -> int:
        return len(self.forces)

    @property
    def sentence(self) -> str:
        there = f"{self.from_n:g} to {self.to_n:g} N" + (" and back" if self.back else "")
        return f"{there} in steps, {self.count} averages of {self.average_s:g} s."

    def on_paper(self, force: float | None) -> LegOnPaper:
        begin = 0.0 if force is None else force
        forces = [begin, *self.forces]
        way = sum(abs(b - a) for a, b in pairwise(forces))
        seconds = way / self.rate_n_s + self.count * (self.settle_s + self.average_s)
        return LegOnPaper(seconds, min(forces), max(forces), forces[-1])

    def begin(self, name: str, before: LegProgress) -> Action:
        force = self.forces[before.step]
        return lambda driver: driver.force_to(name, self.rate_n_s, force)

    def is_over(self, progress: LegProgress) -> bool:
        waited = progress.has_arrived and progress.arrived_s >= self.settle_s + self.average_s
        return waited and progress.step + 1 >= self.count

    @property
    def averaged_s(self) -> float:
        return self.average_s

    def ends_step(self, progress: LegProgress) -> str:
        if not progress.has_arrived or progress.arrived_s < self.settle_s + self.average_s:
            return ""
        return f"{self.forces[progress.step]:g} N"
