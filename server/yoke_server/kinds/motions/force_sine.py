from collections.abc import Sequence
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from pydantic import ValidationInfo, field_validator
from pydantic_core import PydanticCustomError

from yoke_server.common.http import fields
from yoke_server.kinds.actions import FORCE, Action, Force
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.motions.base import Motion

if TYPE_CHECKING:
    from yoke_server.kinds.stops.conditions import StopCondition


class ForceSine(Motion):
    """Between two forces, until something ends the run."""

    needs: ClassVar = FORCE
    has_cycles: ClassVar = True

    kind: Literal["force_sine"] = "force_sine"
    lowest_n: Force
    highest_n: Force
    frequency_hz: Annotated[float, fields.between(1e-3, 50)]

    @field_validator("highest_n")
    @classmethod
    def _above_lowest(cls, highest: float, info: ValidationInfo) -> float:
        if highest <= info.data.get("lowest_n", highest - 1):
            raise PydanticCustomError("rule", "must lie above the lowest force")
        return highest

    @property
    def cycles_hz(self) -> float:
        return self.frequency_hz

    @property
    def sentence(self) -> str:
        forces = f"{self.lowest_n:g} and {self.highest_n:g} N"
        return f"Loaded between {forces} in a sine of {self.frequency_hz:g} Hz."

    def begin(self, name: str) -> Action:
        return lambda driver: driver.force_sine(
            name, self.lowest_n, self.highest_n, self.frequency_hz
        )

    def lacks(self, setup: MeasuringSetup) -> list[Lack]:
        force = setup.channel("force")
        lack = setup.unwatchable(force.key) if force else None
        return [lack] if lack else []

    def conditions(self, setup: MeasuringSetup) -> "Sequence[StopCondition]":
        """Its cycles are counted; they end the run where a stop says so."""
        from yoke_core.fatigue.cycle_meter import CycleMeter

        from yoke_server.kinds.stops.conditions import CyclesCounted

        force = setup.channel("force")
        if force is None:
            return ()
        wanted = [s.max_cycles for s in setup.stops if s.max_cycles is not None]
        meter = CycleMeter(self.lowest_n, self.highest_n)
        reading = setup.watched(force.key)
        return [CyclesCounted(meter, min(wanted, default=None), force, reading)]
