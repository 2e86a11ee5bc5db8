from collections.abc import Mapping
from typing import TYPE_CHECKING, Annotated, Literal, Self

from yoke_server.common.http import fields
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.triggers.base import Trigger

if TYPE_CHECKING:
    from yoke_server.kinds.triggers.watching import TriggerWatch


class Level(Trigger):
    """A channel crosses a level (SI): upwards, having been below it by the hysteresis, or the
    other way. A contact or a switch is a channel too.

    before_s : how much of before that is kept
    """

    kind: Literal["level"] = "level"
    channel: fields.Key
    level: fields.Quantity
    rising: bool = True
    hysteresis: Annotated[float, fields.between(0, 1e9)] = 0.0
    before_s: Annotated[float, fields.between(0, 30)] = 1.0

    @property
    def pre_s(self) -> float:
        return self.before_s

    def lacks(self, setup: MeasuringSetup) -> list[Lack]:
        lack = setup.unwatchable(self.channel)
        return [lack] if lack else []

    def with_channels(self, keys: Mapping[str, str]) -> Self:
        return self.model_copy(update={"channel": keys.get(self.channel, self.channel)})

    def watch(self, setup: MeasuringSetup) -> "TriggerWatch":
        from yoke_server.kinds.triggers.watching import TriggerWatch

        sign = 1.0 if self.rising else -1.0
        return TriggerWatch(setup.watched(self.channel), self.level, self.hysteresis, sign)

    def said(self, setup: MeasuringSetup) -> str:
        of = setup.watched(self.channel).of
        way = "rises above" if self.rising else "falls below"
        return f"{of.name} {way} {of.shown(self.level):g} {of.unit}"
