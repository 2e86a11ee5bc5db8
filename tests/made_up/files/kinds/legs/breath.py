from typing import Annotated, Literal

from pydantic import Field
from yoke_server.kinds.actions import LegProgress
from yoke_server.kinds.legs.base import Leg, LegOnPaper


class BreathLeg(Leg):
    """A made-up leg: as long as some breaths take, four seconds each."""

    kind: Literal["breath"] = "breath"
    breaths: Annotated[int, Field(ge=1)]

    @property
    def sentence(self) -> str:
        return f"{self.breaths} breaths."

    def on_paper(self, force: float | None) -> LegOnPaper:
        return LegOnPaper(4.0 * self.breaths, end=force)

    def is_over(self, progress: LegProgress) -> bool:
        return progress.passed_s >= 4.0 * self.breaths
