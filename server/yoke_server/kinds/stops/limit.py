from collections.abc import Sequence
from dataclasses import dataclass
from math import inf
from typing import TYPE_CHECKING, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.stops.of_channel import ChannelStop

if TYPE_CHECKING:
    from yoke_core.streaming.block import BlockSummary

    from yoke_server.kinds.stops.conditions import StopCondition
    from yoke_server.kinds.stops.watched import WatchedReading


class Limit(ChannelStop):
    """A channel leaves what is allowed of it; SI of its quantity."""

    kind: Literal["limit"] = "limit"
    lowest: fields.Quantity | None = None
    highest: fields.Quantity | None = None

    def conditions(self, setup: MeasuringSetup) -> "Sequence[StopCondition]":
        low = -inf if self.lowest is None else self.lowest
        high = inf if self.highest is None else self.highest
        return [LimitLeft(setup.watched(self.channel), low, high)]


@dataclass(slots=True)
class LimitLeft:
    """A channel left what is allowed of it, or nobody can tell whether it did."""

    reading: "WatchedReading"
    lowest: float
    highest: float
    words: str = ""

    @property
    def device(self) -> str:
        return self.reading.device

    @property
    def lost_without(self) -> None:
        """It says itself when its channel gives no reading."""

    def is_met(self, block: "BlockSummary", follows: bool) -> bool:
        name, look = self.reading.of.name, self.reading.look(block, follows)
        if look.clipped:
            self.words = f"{name} clipped, so that its limit could not be watched"
        elif look.is_lost:
            self.words = f"{name} gives no reading, so that its limit could not be watched"
        elif look.highest > self.highest:
            self.words = f"{name} went above {self._said(self.highest)}"
        elif look.lowest < self.lowest:
            self.words = f"{name} went below {self._said(self.lowest)}"
        return bool(self.words)

    def _said(self, value: float) -> str:
        return f"{self.reading.of.shown(value):g} {self.reading.of.unit}"

    @property
    def state(self) -> None:
        """No state: each sample is checked by itself."""

    def resume(self, state: None) -> None: ...
