from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, ClassVar, Literal, Self

import numpy as np

from yoke_server.common.http import fields
from yoke_server.common.units import from_si
from yoke_server.kinds.chain import chain_of
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuredChannel, MeasuringSetup
from yoke_server.kinds.motions.base import Motion
from yoke_server.kinds.stops.base import Stop

if TYPE_CHECKING:
    from yoke_core.signals.chain import SignalChain
    from yoke_core.streaming.block import BlockSummary

    from yoke_server.kinds.stops.conditions import StopCondition

NOT_WIRED = Lack(
    "A limit watches a channel that is no longer wired.",
    "Take the limit out, or choose a channel for it.",
)


class Limit(Stop):
    """A channel leaves what is allowed of it; SI of its quantity."""

    is_single: ClassVar = False

    kind: Literal["limit"] = "limit"
    channel: fields.Key
    lowest: fields.Quantity | None = None
    highest: fields.Quantity | None = None

    def lacks(self, channels: Sequence[MeasuredChannel], motion: Motion) -> list[Lack]:
        return [] if any(c.key == self.channel for c in channels) else [NOT_WIRED]

    def with_channels(self, keys: Mapping[str, str]) -> Self:
        return self.model_copy(update={"channel": keys.get(self.channel, self.channel)})

    def conditions(self, setup: MeasuringSetup) -> "Sequence[StopCondition]":
        channel = next((c for c in setup.channels if c.key == self.channel), None)
        if channel is None:
            return ()
        low = -np.inf if self.lowest is None else self.lowest
        high = np.inf if self.highest is None else self.highest
        return [LimitLeft(channel, low, high, chain_of(channel))]


@dataclass(slots=True)
class LimitLeft:
    """A channel left what is allowed of it, or nobody can tell whether it did."""

    channel: MeasuredChannel
    lowest: float
    highest: float
    _chain: "SignalChain"
    words: str = ""

    @property
    def device(self) -> str:
        return self.channel.device_label

    @property
    def lost_without(self) -> None:
        """It says itself when its channel gives no reading."""

    def is_met(self, block: "BlockSummary") -> bool:
        row, name = self.channel.input_number - 1, self.channel.name
        low, high = self._chain.extremes(block.low[row], block.high[row])
        if block.clipped[row]:
            self.words = f"{name} clipped, so that its limit could not be watched"
        elif not (np.isfinite(low).all() and np.isfinite(high).all()):
            self.words = f"{name} gives no reading, so that its limit could not be watched"
        elif high.max() > self.highest:
            self.words = f"{name} went above {self._said(self.highest)}"
        elif low.min() < self.lowest:
            self.words = f"{name} went below {self._said(self.lowest)}"
        return bool(self.words)

    def _said(self, value: float) -> str:
        return f"{from_si(value, self.channel.unit):g} {self.channel.unit}"

    @property
    def state(self) -> None:
        """No state: each sample is checked by itself."""

    def resume(self, state: None) -> None: ...
