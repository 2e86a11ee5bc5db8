from typing import Annotated, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.actions import LegProgress
from yoke_server.kinds.legs.base import Leg, LegOnPaper


class HoldLeg(Leg):
    """What is there stays, for a time; on a bench without an actuator: the run records on."""

    kind: Literal["hold"] = "hold"
    seconds: Annotated[float, fields.between(0.1, 1e7)]

    @property
    def sentence(self) -> str:
        return f"Held for {self.seconds:g} s."

    def on_paper(self, force: float | None) -> LegOnPaper:
        return LegOnPaper(self.seconds, force, force, force)

    def is_over(self, progress: LegProgress) -> bool:
        return progress.passed_s >= self.seconds
