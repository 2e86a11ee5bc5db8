"""Stand-ins of amplifiers and of the ports to them."""

from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

import numpy as np
from yoke_core.clock import ClockReading
from yoke_core.wiring.probe import PinReadings, Probe
from yoke_server.bench.drivers.base import AcquisitionStatus, SampleBlock
from yoke_server.record.recorder.model import events

from tests.simulation.virtual import BLOCK_S, IDENTITY, PER_BLOCK, RAIL, STEP

if TYPE_CHECKING:
    from tests.simulation.stage import Stage

_AT_REST = PinReadings(5.0, 2.5, 2.5, 0.0, 14e-3, 1e-12)
WELL = Probe(_AT_REST, _AT_REST, _AT_REST)
MEMORY = 120  # blocks, a minute
RETRY = 1.0
UNHEEDED = 2  # blocks
SILENCE = 3.0  # s until a link that went quiet counts as lost


@dataclass(eq=False)
class StandInDevice:
    """Makes a block each half second, whether anybody listens or not.

    Input 1 is the force; the second (of A2 the first) tells each sample's place, so that
    what was stored can be compared with what was made.
    """

    label: str
    stage: "Stage"
    ppm: float
    acquisition: int = 1
    sequence: int = 0
    offset_ns: int = 0  # by which its clock was put
    reachable: bool = True
    quiet_since: float | None = None
    losing: int = 0  # blocks to lose on the way
    doubling: int = 0
    delaying: int = 0
    shunt: bool = False
    configured: bool = False
    memory: dict[int, SampleBlock] = field(default_factory=dict)
    port: "StandInPort | None" = None
    next_at: float = 0.0

    def time_ns(self) -> int:
        ran = (self.stage.clock.now) * (1 + self.ppm * 1e-6)
        return self.offset_ns + round(ran * 1e9)

    def make(self, force: float) -> None:
        first = self.sequence * PER_BLOCK
        counts = np.zeros((PER_BLOCK, 2), np.int32)
        counts[:, 0 if self.label == "A2" else 1] = np.arange(first, first + PER_BLOCK)
        if self.label == "A1":
            counts[:, 0] = round(force / 25e3 * 2e-3 / 8e-3 * RAIL)
        at = self.time_ns() - round(BLOCK_S * 1e9)
        scale = np.full(2, 8e-3, np.float32)
        rate = PER_BLOCK / BLOCK_S
        block = SampleBlock(self.acquisition, self.sequence, at, rate, scale, counts, False)
        self.memory[self.sequence] = block
        self.memory.pop(self.sequence - MEMORY, None)
        self.sequence += 1
        self._send(block)

    def _send(self, block: SampleBlock) -> None:
        if self.losing > 0:
            self.losing -= 1
            return
        delay = 0.0
        if self.delaying > 0:
            self.delaying -= 1
            delay = 0.8
        self.deliver(block, delay)
        if self.doubling > 0:
            self.doubling -= 1
            self.deliver(block, delay + 0.3)

    def deliver(self, block: SampleBlock, delay: float = 0.0) -> None:
        port = self.port
        if port and port.linked and self.reachable:
            self.stage.later(delay, lambda: port.arrive(block))

    def again(self, first: int, last: int) -> None:
        for sequence in range(first, min(last, first + MEMORY) + 1):
            if old := self.memory.get(sequence):
                fields = (old.acquisition, old.sequence, old.time_ns, old.rate_hz)
                again = SampleBlock(*fields, old.full_scale, old.counts, True)
                if self.losing > 0:
                    self.losing -= 1
                else:
                    self.deliver(again, 0.1)

    def restart(self) -> None:
        """Off and on: a new acquisition, settings and memory gone, connections cut."""
        self.acquisition += 1
        self.sequence = 0
        self.memory.clear()
        self.configured = self.shunt = False
        if self.port:
            self.port.cut("it was switched off.")


@dataclass(eq=False)
class StandInPort:
    """What the runner asks of a device, answered by the stage's clock."""

    device: StandInDevice
    stage: "Stage"
    emit: Callable[[events.Event], None]
    linked: bool = False
    living: bool = True
    retry_at: float = 0.0
    is_streaming: bool = False
    unread: list[SampleBlock] = field(default_factory=list)

    def set_streaming(self, yes: bool) -> None:
        self.is_streaming = yes

    def start(self) -> None:
        self.device.port = self

    def finish(self) -> None:
        self.living = self.linked = False

    def cut(self, why: str) -> None:
        if self.linked:
            self.linked = False
            self.unread.clear()
            self.retry_at = self.stage.clock.now + RETRY
            self.emit(events.Lost(self.device.label, why))

    def turn(self) -> None:
        """Link where that can be; notice a silence."""
        now, device = self.stage.clock.now, self.device
        if not self.living:
            return
        if not self.linked and device.reachable and now >= self.retry_at:
            self.read_clock()
            self.linked = True
            self.emit(events.Linked(device.label, IDENTITY, ""))
        elif self.linked and not device.reachable:
            device.quiet_since = device.quiet_since or now
            if now - device.quiet_since > SILENCE:
                device.quiet_since = None
                self.cut("no samples arrive.")
        elif self.linked and int(now) != int(now - STEP):
            self.read_clock()
        if device.reachable:
            device.quiet_since = None
        self._read_on()

    def read_clock(self) -> None:
        bench = self.stage.clock.bench_ns()
        reading = ClockReading(self.device.time_ns(), bench, 50_000)
        self.emit(events.ClockRead(self.device.label, reading))

    def arrive(self, block: SampleBlock) -> None:
        """What nobody heeds waits to be read together."""
        self.unread.append(block)
        self._read_on()

    def _read_on(self) -> None:
        if self.is_streaming or len(self.unread) >= UNHEEDED:
            waiting, self.unread = self.unread, []
            for block in waiting:
                self._read(block)

    def _read(self, block: SampleBlock) -> None:
        current = block.acquisition == self.device.acquisition
        if current and self.living and self.linked and self.device.reachable:
            self.stage.received(self.device.label, block)
            self.emit(events.Arrived(self.device.label, block))

    def _answer(self, event: events.Event) -> None:
        if self.living:
            self.stage.later(0.1, lambda: self.living and self.emit(event))

    def configure(self, token: str, settings: object, rate_hz: float) -> None:
        device = self.device
        self.set_streaming(True)
        if not self.linked or not device.reachable:
            answer = events.Configured(device.label, token, None, "the device is not linked.")
            self._answer(answer)
            return
        device.configured, device.shunt = True, False
        status = AcquisitionStatus(device.acquisition, 0, device.sequence, rate_hz)
        self._answer(events.Configured(device.label, token, status))

    def set_shunt(self, token: str, inputs: list[int], on: bool) -> None:
        works = self.linked and self.device.reachable
        if works:
            self.device.shunt = on
        problem = "" if works else "the device is not linked."
        self._answer(events.ShuntSet(self.device.label, token, on, 100e3, problem))

    def probe(self, token: str, inputs: list[int]) -> None:
        works = self.linked and self.device.reachable
        problem = "" if works else "the device is not linked."
        probes = {n: WELL for n in inputs} if works else {}
        self._answer(events.Probed(self.device.label, token, probes, problem))

    def tell(self, token: str, what: Any) -> None:
        self._answer(events.CommandFinished(self.device.label, token, {}))

    def send_again(self, first: int, last: int) -> None:
        if self.linked and self.device.reachable:
            self.device.again(first, last)
