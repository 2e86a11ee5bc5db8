from typing import Annotated, ClassVar, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.actions import FORCE, Action, Force, LegProgress
from yoke_server.kinds.legs.base import Leg, LegOnPaper


class ForceLeg(Leg):
    """At an even rate to a force, where it stays."""

    needs: ClassVar = FORCE

    kind: Literal["to_force"] = "to_force"
    force_n: Force
    rate_n_s: Annotated[float, fields.between(1e-2, 1e6)]

    @property
    def sentence(self) -> str:
        return f"To {self.force_n:g} N at {self.rate_n_s:g} N/s."

    def on_paper(self, force: float | None) -> LegOnPaper:
        begin = 0.0 if force is None else force
        seconds = abs(self.force_n - begin) / self.rate_n_s
        low, high = sorted((begin, self.force_n))
        return LegOnPaper(seconds, low, high, self.force_n)

    def begin(self, name: str, before: LegProgress) -> Action:
        return lambda driver: driver.force_to(name, self.rate_n_s, self.force_n)

    def is_over(self, progress: LegProgress) -> bool:
        return progress.has_arrived
