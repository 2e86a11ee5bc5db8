from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal, Self

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.keep_rules.base import Expected, KeepRule
from yoke_server.kinds.measured import MeasuringSetup

if TYPE_CHECKING:
    from yoke_server.kinds.keep_rules.deciding import InstantDecider


class TurningPoints(KeepRule):
    """The highest and the lowest of each cycle of a channel, with all others at those instants.

    gate : how far (SI) a cycle goes at least
    every : 1 for each cycle, 10 for the first of ten
    """

    is_timed: ClassVar = True

    kind: Literal["turning_points"] = "turning_points"
    channel: fields.Key
    gate: Annotated[float, fields.between(1e-12, 1e9)]
    every: Annotated[int, Field(ge=1, le=10**6)] = 1

    @property
    def channels(self) -> Sequence[str]:
        return (self.channel,)

    def with_channels(self, keys: Mapping[str, str]) -> Self:
        return self.model_copy(update={"channel": keys.get(self.channel, self.channel)})

    def decider(self, setup: MeasuringSetup) -> "InstantDecider":
        from yoke_core.keeping.turns import CycleTurns

        from yoke_server.kinds.keep_rules.deciding import TurnsOfCycles

        return TurnsOfCycles(CycleTurns(self.gate, self.every), setup.watched(self.channel))

    @property
    def cycles_of_rows(self) -> int:
        return self.every

    def rows(self, rate_hz: float, expected: Expected) -> float:
        return 2 * -(-expected.cycles // self.every)
