from collections.abc import Mapping, Sequence
from enum import StrEnum
from typing import TYPE_CHECKING, Annotated, Any, Literal, Self

from pydantic import Field, model_validator
from pydantic_core import PydanticCustomError
from yoke_core.errors import SignalError

from yoke_server.common.http import fields
from yoke_server.kinds.keep_rules.base import Expected, KeepRule
from yoke_server.kinds.measured import MeasuringSetup

if TYPE_CHECKING:
    from yoke_core.keeping.bursts import BurstPlan

    from yoke_server.kinds.keep_rules.deciding import WindowDecider


class BurstUnit(StrEnum):
    """In what bursts are counted."""

    SECONDS = "seconds"
    CYCLES = "cycles"


class Bursts(KeepRule):
    """Everything for a while, every so often; see `BurstPlan`.

    unit : of ``length`` and ``every``
    channel, gate : whose cycles count, and how far (SI) one goes at least
    """

    kind: Literal["bursts"] = "bursts"
    unit: Annotated[BurstUnit, Field(strict=False)] = BurstUnit.SECONDS
    length: Annotated[float, fields.between(1e-3, 1e9)]
    every: Annotated[float, fields.between(1e-3, 1e9)]
    per_decade: Annotated[int, Field(ge=1, le=100)] | None = None
    channel: fields.Key | None = None
    gate: Annotated[float, fields.between(1e-12, 1e9)] | None = None

    @model_validator(mode="after")
    def _some_bursts(self) -> Any:
        if self.in_cycles and (self.channel is None or self.gate is None):
            raise PydanticCustomError("rule", "of cycles need a channel and a gate")
        try:
            _ = self.plan
        except SignalError as error:
            raise PydanticCustomError("rule", "{why}", {"why": f"{error} {error.hint}"}) from None
        return self

    @property
    def in_cycles(self) -> bool:
        return self.unit is BurstUnit.CYCLES

    @property
    def plan(self) -> "BurstPlan":
        from yoke_core.keeping.bursts import BurstPlan

        return BurstPlan(self.length, self.every, self.per_decade)

    @property
    def channels(self) -> Sequence[str]:
        return (self.channel,) if self.in_cycles and self.channel else ()

    def with_channels(self, keys: Mapping[str, str]) -> Self:
        channel = None if self.channel is None else keys.get(self.channel, self.channel)
        return self.model_copy(update={"channel": channel})

    def decider(self, setup: MeasuringSetup) -> "WindowDecider":
        from yoke_core.keeping.cycles import CycleCounter

        from yoke_server.kinds.keep_rules.deciding import BurstsInCycles, BurstsInTime

        if not self.in_cycles:
            return BurstsInTime(self.plan)
        assert self.channel is not None and self.gate is not None
        return BurstsInCycles(self.plan, CycleCounter(self.gate), setup.watched(self.channel))

    def rows(self, rate_hz: float, expected: Expected) -> float:
        end = expected.cycles if self.in_cycles else expected.seconds
        if not end:
            return 0.0
        bursts = self.plan.until(end)
        of_unit = expected.seconds / end if self.in_cycles else 1.0
        return min(bursts * self.length, end) * of_unit * rate_hz
