"""Orders that check the wiring: the devices read their pins, then some seconds are sampled."""

from dataclasses import asdict
from typing import Any

import numpy as np
from numpy.typing import NDArray
from yoke_core.wiring.probe import Probe
from yoke_core.wiring.samples import SampleFacts, facts_of_samples

from yoke_server.kinds.orders.measuring import CheckWiring, WiringReading, WiringReadings
from yoke_server.live.protocol import Phase
from yoke_server.record.recorder.control.bench_context import BenchContext, sentence
from yoke_server.record.recorder.control.bench_device import SETTLING_BLOCKS
from yoke_server.record.recorder.control.sample_window import SampleWindow
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.model.phases import Refused
from yoke_server.record.recorder.stream.positioned import PositionedBlock
from yoke_server.setups.document import FrozenChannel

SAMPLED = 2.0  # s
PATIENCE = 8.0  # s
FAST_ENOUGH = 2500.0  # Hz; hum and drift need no more, and averages take the rest together


class Gathering:
    """Some seconds of chosen channels of one device, thinned by averaging."""

    def __init__(self, channels: list[FrozenChannel], rate_hz: float, window: SampleWindow) -> None:
        self._window = window
        self._rows = [c.input_number - 1 for c in channels]
        self._together = max(int(rate_hz // FAST_ENOUGH), 1)
        self.rate_hz = rate_hz / self._together
        self._wanted = round(SAMPLED * self.rate_hz)
        self._seen: list[NDArray[np.float64]] = []
        self._count = 0

    @property
    def done(self) -> bool:
        return self._count >= self._wanted

    def push(self, placed: PositionedBlock) -> None:
        """Add a block; a gap restarts the collection."""
        if self.done or not self._window.admits(placed.block):
            return
        if self._window.is_torn_by(placed.block):
            self._seen, self._count = [], 0
        rows = placed.summary.ratios[self._rows].astype(float)
        whole = rows.shape[1] // self._together * self._together
        with np.errstate(invalid="ignore"):  # one that clips at both rails has no mean
            thin = rows[:, :whole].reshape(len(rows), -1, self._together).mean(axis=2)
        self._seen.append(np.where(np.isnan(thin), np.inf, thin))
        self._count += thin.shape[1]

    def facts(self) -> list[SampleFacts]:
        samples = np.concatenate(self._seen, axis=1)[:, : self._wanted]
        return facts_of_samples(samples, self.rate_hz)


class WiringCheck:
    """At most one such order at a time."""

    def __init__(self, context: BenchContext) -> None:
        self._context = context
        self._key = ""
        self._until = 0.0
        self._channels: dict[str, list[FrozenChannel]] = {}
        self._probes: dict[str, dict[int, Probe]] = {}
        self._windows: dict[str, SampleWindow] = {}  # since the pins were read
        self._gathered: dict[str, Gathering] = {}

    def check(self, order: events.OrderIn[CheckWiring]) -> None:
        context = self._context
        channels = context.chosen(order.order.channels)
        if not channels:
            raise Refused("There is no channel to check.")
        context.require_measurable(set(channels))
        context.enter(Phase.CHECKING)
        self._key, self._channels = order.key, channels
        self._until = context.now + PATIENCE
        self._probes, self._windows, self._gathered = {}, {}, {}
        for label, found in channels.items():
            inputs = [c.input_number for c in found if c.wiring.is_probed]
            context.devices[label].port.probe(order.key, inputs)

    def on_probed(self, event: events.Probed) -> None:
        if not self._key or event.token != self._key:
            return
        if event.problem or event.since is None:
            self.end(f"{event.device} does not read its pins: {event.problem}")
            return
        self._probes[event.device] = event.probes
        self._windows[event.device] = SampleWindow(event.since, SETTLING_BLOCKS)

    def push_block(self, device: str, placed: PositionedBlock) -> None:
        """Samples count once the device has read its pins."""
        window = self._windows.get(device)
        if not self._key or window is None:
            return
        if device not in self._gathered:
            rate_hz = placed.block.rate_hz
            self._gathered[device] = Gathering(self._channels[device], rate_hz, window)
        self._gathered[device].push(placed)
        all_here = self._gathered.keys() == self._channels.keys()
        if all_here and all(g.done for g in self._gathered.values()):
            key, answer = self._key, self._answer()
            self._key = ""
            self._context.done(key, answer.model_dump())
            self._context.be_idle()

    def _answer(self) -> WiringReadings:
        """By channel: facts of its samples, and of a bridge what was read at its pins."""
        found = {}
        for label, channels in self._channels.items():
            gathered, probes = self._gathered[label], self._probes[label]
            for channel, facts in zip(channels, gathered.facts(), strict=True):
                probe = probes.get(channel.input_number)
                found[channel.key] = WiringReading(
                    samples=_plain(facts), probe=asdict(probe) if probe else None
                )
        return WiringReadings(found)

    def give_up(self, device: str, why: str) -> None:
        if self._key and device in self._channels:
            self.end(why)

    def tick(self) -> None:
        if self._key and self._context.now > self._until:
            self.end("The check took too long: samples stay away.")

    def end(self, why: str) -> None:
        """Given up, if there is one."""
        key, self._key = self._key, ""
        if key:
            self._context.refuse(key, sentence(why))
            self._context.be_idle()


def _plain(facts: SampleFacts) -> dict[str, Any]:
    """As JSON, which has no word for not a number."""
    return {
        k: None if isinstance(v, float) and not np.isfinite(v) else v
        for k, v in asdict(facts).items()
    }
