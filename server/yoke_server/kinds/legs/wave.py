import math
from collections.abc import Callable, Iterator
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field, ValidationInfo, field_validator
from pydantic_core import PydanticCustomError

from yoke_server.common.http import fields
from yoke_server.kinds.actions import FORCE, Action, Force, LegProgress
from yoke_server.kinds.legs.base import Leg, LegOnPaper

Shape = Literal["sine", "triangle", "trapezoid"]
GAIN = 0.5  # of what is amiss, that is put right at once
OUTLINE, SHOWN_CYCLES = 48, 3  # points on paper, and the cycles that they show


def _triangle(phase: float) -> float:
    return 2 / math.pi * math.asin(math.sin(phase))


SWINGS: dict[Shape, Callable[[float], float]] = {
    "sine": math.sin,
    "triangle": _triangle,
    "trapezoid": lambda phase: max(-1.0, min(1.0, 2 * _triangle(phase))),
}


class WaveLeg(Leg):
    """So many cycles between two forces.

    held_within : share of the range by which the recorder may command other forces, so that the
        force channel swings as it should; 0 leaves it to the device
    """

    needs: ClassVar = FORCE

    kind: Literal["wave"] = "wave"
    shape: Shape = "sine"
    lowest_n: Force
    highest_n: Force
    frequency_hz: Annotated[float, fields.between(1e-3, 50)]
    cycles: Annotated[int, Field(ge=1, le=10**9)]
    held_within: Annotated[float, fields.between(0, 0.3)] = 0.0

    @field_validator("highest_n")
    @classmethod
    def _above_lowest(cls, highest: float, info: ValidationInfo) -> Any:
        if highest <= info.data.get("lowest_n", highest - 1):
            raise PydanticCustomError("rule", "must lie above the lowest force")
        return highest

    @property
    def sentence(self) -> str:
        forces = f"{self.lowest_n:g} and {self.highest_n:g} N"
        return f"{self.cycles} cycles between {forces}, a {self.shape} of {self.frequency_hz:g} Hz."

    def on_paper(self, force: float | None) -> LegOnPaper:
        middle = (self.lowest_n + self.highest_n) / 2
        return LegOnPaper(
            self.cycles / self.frequency_hz,
            self.lowest_n,
            self.highest_n,
            middle,
            self.cycles,
            self._outline(),
        )

    def _outline(self) -> tuple[float, ...]:
        """Three cycles stand for all."""
        middle, size = (self.lowest_n + self.highest_n) / 2, (self.highest_n - self.lowest_n) / 2
        turns = [i * SHOWN_CYCLES / OUTLINE for i in range(OUTLINE + 1)]
        return tuple(middle + size * SWINGS[self.shape](math.tau * turn) for turn in turns)

    @property
    def levels(self) -> tuple[float, float]:
        return self.lowest_n, self.highest_n

    def trimmed(
        self, commanded: tuple[float, float], seen: tuple[float, float]
    ) -> tuple[float, float] | None:
        if not self.held_within:
            return None
        room = self.held_within * (self.highest_n - self.lowest_n)

        def ends() -> Iterator[float]:
            for now, was, wanted in zip(commanded, seen, self.levels, strict=True):
                yield min(max(now + GAIN * (wanted - was), wanted - room), wanted + room)

        low, high = ends()
        return low, high

    def begin(self, name: str, before: LegProgress) -> Action:
        left = max(1, self.cycles - before.cycles)
        return lambda driver: driver.force_wave(
            name, self.shape, self.lowest_n, self.highest_n, self.frequency_hz, left
        )

    def is_over(self, progress: LegProgress) -> bool:
        return progress.has_arrived or progress.cycles >= self.cycles
