from typing import Annotated, Literal

from yoke_server.common.http.fields import Text
from yoke_server.kinds.actions import LegProgress
from yoke_server.kinds.legs.base import Leg, LegOnPaper


class WaitLeg(Leg):
    """Nothing goes on until a person has done something and says so."""

    kind: Literal["wait"] = "wait"
    text: Annotated[str, Text(1, 120)]

    @property
    def sentence(self) -> str:
        return f"Waits for a person: {self.text}"

    def on_paper(self, force: float | None) -> LegOnPaper:
        return LegOnPaper(None, force, force, force)

    def is_over(self, progress: LegProgress) -> bool:
        return progress.is_confirmed
