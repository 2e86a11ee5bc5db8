from collections.abc import Sequence
from dataclasses import dataclass
from math import isnan
from typing import TYPE_CHECKING, Annotated, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.stops.of_channel import ChannelStop

if TYPE_CHECKING:
    from yoke_core.streaming.block import BlockSummary
    from yoke_core.tension.stop import ForceDropWatch

    from yoke_server.kinds.stops.conditions import StopCondition
    from yoke_server.kinds.stops.watched import WatchedReading


class Drop(ChannelStop):
    """A channel has fallen by a share of its largest, once that has reached ``arm`` (SI)."""

    kind: Literal["drop"] = "drop"
    share: fields.Share
    arm: Annotated[float, fields.between(1e-12, 1e9)]

    def conditions(self, setup: MeasuringSetup) -> "Sequence[StopCondition]":
        from yoke_core.tension.stop import ForceDropWatch

        return [Dropped(setup.watched(self.channel), ForceDropWatch(self.arm, self.share))]


@dataclass(slots=True)
class Dropped:
    """A channel has fallen by a share of its largest, or nobody can tell whether it did."""

    reading: "WatchedReading"
    _watch: "ForceDropWatch"
    words: str = ""

    @property
    def device(self) -> str:
        return self.reading.device

    @property
    def lost_without(self) -> None:
        """It says itself when its channel gives no reading."""

    def is_met(self, block: "BlockSummary", follows: bool) -> bool:
        name, look = self.reading.of.name, self.reading.look(block, follows)
        if look.clipped or look.is_lost:
            why = "clipped" if look.clipped else "gives no reading"
            self.words = f"{name} {why}, so that its drop could not be watched"
        elif not isnan(look.lowest) and not self._watch.quiet(look.lowest, look.highest):
            fell = self._watch.push(look.samples) is not None
            self.words = f"{name} fell by {self._watch.drop * 100:g} %" if fell else ""
        return bool(self.words)

    @property
    def state(self) -> float:
        return self._watch.largest

    def resume(self, state: float) -> None:
        self._watch.largest = float(state)
