from typing import Annotated, ClassVar, Literal

from pydantic import Field

from yoke_server.bench.drivers.base import Capability
from yoke_server.kinds.actions import Action, LegProgress
from yoke_server.kinds.legs.base import Leg, LegOnPaper


class OutputLeg(Leg):
    """An output of the actuator is switched; nothing moves."""

    needs: ClassVar = frozenset({Capability.MOVES})

    kind: Literal["output"] = "output"
    output: Annotated[int, Field(ge=1, le=2)] = 1
    on: bool = True

    @property
    def sentence(self) -> str:
        return f"Output {self.output} is switched {'on' if self.on else 'off'}."

    def on_paper(self, force: float | None) -> LegOnPaper:
        return LegOnPaper(0.0, end=force)

    def begin(self, name: str, before: LegProgress) -> Action:
        return lambda driver: driver.switch(name, self.output, self.on)

    def is_over(self, progress: LegProgress) -> bool:
        return progress.has_arrived
