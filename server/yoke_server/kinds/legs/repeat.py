from typing import Annotated, Literal

from pydantic import Field

from yoke_server.kinds.actions import LegProgress
from yoke_server.kinds.legs.base import Leg, LegOnPaper


class RepeatLeg(Leg):
    """Goes back to an earlier leg, until all from there on was done so many times.

    first : leg to go back to, counted from 1
    """

    kind: Literal["repeat"] = "repeat"
    first: Annotated[int, Field(ge=1, le=50)]
    times: Annotated[int, Field(ge=2, le=10**6)]

    @property
    def sentence(self) -> str:
        return f"All from leg {self.first} on {self.times} times."

    @property
    def takes_time(self) -> bool:
        return False

    def on_paper(self, force: float | None) -> LegOnPaper:
        return LegOnPaper(0.0, end=force)

    def is_over(self, progress: LegProgress) -> bool:
        return True

    def back_to(self, rounds: int) -> int | None:
        return self.first - 1 if rounds < self.times - 1 else None
