"""What legs have in common that go in steps, each of which is averaged."""

from typing import Annotated

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.actions import LegProgress
from yoke_server.kinds.legs.base import Leg

MAX_STEPS = 200


class SteppedLeg(Leg):
    """In even steps from one value to another; the averages of all channels are rows of the
    run's table of steps.

    steps : values, both ends among them
    back : whether it goes down the same steps again
    """

    steps: Annotated[int, Field(ge=2, le=MAX_STEPS)]
    settle_s: Annotated[float, fields.between(0, 3600)] = 2.0
    average_s: Annotated[float, fields.between(0.1, 3600)] = 1.0
    back: bool = False

    @property
    def ends(self) -> tuple[float, float]:
        raise NotImplementedError

    def step_words(self, value: float) -> str:
        """A step as the table says it, with its unit."""
        raise NotImplementedError

    @property
    def values(self) -> list[float]:
        """Of each step, SI."""
        begin, end = self.ends
        width = (end - begin) / (self.steps - 1)
        up = [begin + width * i for i in range(self.steps - 1)] + [end]
        return [*up, *up[-2::-1]] if self.back else up

    @property
    def count(self) -> int:
        return len(self.values)

    @property
    def sentence(self) -> str:
        begin, end = (self.step_words(value) for value in self.ends)
        there = f"{begin} to {end}" + (" and back" if self.back else "")
        return f"{there} in steps, {self.count} averages of {self.average_s:g} s."

    def _is_averaged(self, progress: LegProgress) -> bool:
        return progress.has_arrived and progress.arrived_s >= self.settle_s + self.average_s

    def is_over(self, progress: LegProgress) -> bool:
        return self._is_averaged(progress) and progress.step + 1 >= self.count

    @property
    def averaged_s(self) -> float:
        return self.average_s

    def ends_step(self, progress: LegProgress) -> str:
        return self.step_words(self.values[progress.step]) if self._is_averaged(progress) else ""
