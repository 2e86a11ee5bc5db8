"""A setup as stop conditions look at it: the reading of each channel, measured or computed."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from yoke_core.errors import SignalError

from yoke_server.kinds.chain import stateful_steps
from yoke_server.kinds.guards.base import Guard
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.motions.base import Motion
from yoke_server.kinds.stops.base import Stop
from yoke_server.kinds.stops.watched import BLIND, ChainReading, SignalReading, WatchedReading
from yoke_server.setups.document import FrozenChannel, FrozenSetup
from yoke_server.setups.readable import ReadableChannel, by_key, computed, measured
from yoke_server.setups.signals import Signals, signals_of, why_not

if TYPE_CHECKING:
    from yoke_core.signals.node import Node

MEND = "Mend its formula or its steps, or watch another channel."
Array = NDArray[np.float64]
GONE = Lack(
    "What is to end the run watches a channel that is not recorded.",
    "Take it out, or choose a channel for it.",
)


@dataclass(frozen=True)
class WatchedSetup:
    """A setup whose channels are all recorded."""

    setup: FrozenSetup

    @property
    def channels(self) -> list[FrozenChannel]:
        return self.setup.channels

    @property
    def rates_hz(self) -> Mapping[str, float]:
        return self.setup.rates_hz

    @property
    def motion(self) -> Motion:
        return self.setup.motion

    @property
    def stops(self) -> list[Stop]:
        return self.setup.stops

    @property
    def guards(self) -> list[Guard]:
        return self.setup.guards

    def channel(self, quantity: str) -> FrozenChannel | None:
        """The first channel that measures ``quantity``; None where none does."""
        return self.setup.channel(quantity)

    def unwatchable(self, key: str) -> Lack | None:
        """Why no condition can look at a channel; None if one can."""
        channel = self._readable(key)
        if channel is None:
            return GONE
        if why := self._signals.faults.get(key):
            return Lack(f"{channel.name} cannot be watched. {why}", MEND)
        node = self._signals.nodes.get(key)
        return self._lack_of_signal(channel, node) if node else None

    def watched(self, key: str) -> WatchedReading:
        """What a condition looks at; raises SignalError of a channel that is `unwatchable`."""
        if lack := self.unwatchable(key):
            raise SignalError("stops", lack.text, lack.hint)
        of, channel = self._readable(key), self._measured(key)
        assert of is not None
        if node := self._signals.nodes.get(key):
            return self._signal(of, channel, node)
        assert channel is not None
        return ChainReading(of, channel)

    @cached_property
    def _signals(self) -> Signals:
        return signals_of(self.setup.channels, self.setup.computed, self.setup.rates_hz)

    def _measured(self, key: str) -> FrozenChannel | None:
        return next((c for c in self.setup.channels if c.key == key), None)

    def _readable(self, key: str) -> ReadableChannel | None:
        return by_key(
            [*map(measured, self.setup.channels), *map(computed, self.setup.computed)], key
        )

    def _rate_hz(self, key: str) -> float:
        return self.setup.rates_hz[self._signals.devices[key]]

    def _lack_of_signal(self, channel: ReadableChannel, node: "Node") -> Lack | None:
        """What is wrong with a signal as one that is watched."""
        name, key = channel.name, channel.key
        inputs = self._signals.inputs[key]
        labels = {c.device_label for c in self.setup.channels if c.key in inputs}
        if len(labels) != 1:
            devices = " and ".join(sorted(labels))
            return Lack(
                f"{name} is computed from {devices}, and is known too late to be watched.",
                "Watch a channel that one device gives.",
            )
        if why := why_not(node, {}, self._rate_hz(key)):
            return Lack(f"{name} cannot be watched. {why}", MEND)
        if channel.measured is None and (seconds := self._held_s(node, key)) > BLIND:
            return Lack(
                f"{name} needs {seconds:g} s until it gives a reading, and would not be watched "
                "as long.",
                f"Make its windows {BLIND:g} s or shorter.",
            )
        return None

    def _held_s(self, node: "Node", key: str) -> float:
        """In which the longest window of a signal fills."""
        from yoke_core.signals.graph import SignalGraph
        from yoke_core.signals.node import Holding

        rate_hz = self._rate_hz(key)
        holding = [n for n in SignalGraph({key: node}).order if isinstance(n, Holding)]
        return max((n.held_samples(rate_hz) for n in holding), default=0) / rate_hz

    def _signal(
        self, of: ReadableChannel, channel: FrozenChannel | None, node: "Node"
    ) -> SignalReading:
        from yoke_core.signals.graph import SignalGraph

        key, rate_hz = of.key, self._rate_hz(of.key)
        process = SignalGraph({key: node}).start(rate_hz)

        def signal(readings: Mapping[str, Array], follows: bool) -> Array:
            return process.push(readings, follows)[key]

        inputs = self._signals.inputs[key]
        steps = stateful_steps(channel) if channel else []
        settling = sum(s.settling_samples(rate_hz) for s in steps)
        return SignalReading(
            of,
            self._signals.devices[key],
            [c for c in self.setup.channels if c.key in inputs],
            signal,
            key if steps and all(s.keeps_level for s in steps) else "",
            round(BLIND * rate_hz) + settling,
        )
