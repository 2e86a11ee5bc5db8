"""Stand-ins of amplifiers, and of the ports to them."""

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

import numpy as np
from yoke_core.timebase.clock import ClockReading
from yoke_core.wiring.probe import PinReadings, Probe
from yoke_server.bench.drivers.base import AcquisitionStatus, SampleBlock
from yoke_server.record.recorder.model import events

from tests.simulation.virtual import BLOCK_S, IDENTITY, PER_BLOCK, RAIL, RATE_HZ

if TYPE_CHECKING:
    from tests.simulation.stage import Process, Stage

_AT_REST = PinReadings(5.0, 2.5, 2.5, 0.0, 14e-3, 1e-12)
WELL = Probe(_AT_REST, _AT_REST, _AT_REST)
MEMORY = 300  # blocks, a minute
RETRY = 1.0
UNHEEDED = 2  # blocks
SILENCE = 3.0  # s until a link that went quiet counts as lost
ANSWER_S = 0.02
SHUNT_RATIO = 1e-3
CAPACITY_N, OUTPUT, FULL_SCALE = 25e3, 2e-3, 8e-3


@dataclass(eq=False)
class StandInDevice:
    """Makes a block each fifth of a second, whether anybody listens or not.

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
    losing: int = 0  # blocks to lose on the way
    doubling: int = 0
    delaying: int = 0
    deaf: bool = False  # does not send old blocks again
    flat: bool = False  # its converter hangs: the same value for ever
    last_counts: int = 0  # of the force
    late_s: float = 0.0  # from sampling to sending, as a buffer on the way makes it
    was_late: bool = False
    was_put: bool = False
    shunt: bool = False
    settings: object = None
    memory: dict[int, SampleBlock] = field(default_factory=dict)
    made_at: dict[tuple[int, int], float] = field(default_factory=dict)  # end of each block
    port: "StandInPort | None" = None
    troubles: list[float] = field(default_factory=list)  # when something on the way was wrong

    @property
    def troubled_at(self) -> float:
        """When something on the way last was wrong."""
        return self.troubles[-1] if self.troubles else -1e9

    def trouble(self) -> None:
        self.troubles.append(self.stage.clock.now)

    def time_ns(self) -> int:
        return self.offset_ns + round(self.stage.clock.now * (1 + self.ppm * 1e-6) * 1e9)

    def live(self) -> None:
        """One block after the other, for ever."""
        self.make()
        self.stage.scheduler.later(BLOCK_S, self.live)

    def make(self) -> None:
        first = self.sequence * PER_BLOCK
        counts = np.zeros((PER_BLOCK, 2), np.int32)
        counts[:, 0 if self.label == "A2" else 1] = np.arange(first, first + PER_BLOCK)
        if self.label == "A1":
            counts[:, 0] = self._force_counts()
        at = self.time_ns() - round(BLOCK_S * 1e9)
        scale = np.full(2, FULL_SCALE, np.float32)
        block = SampleBlock(self.acquisition, self.sequence, at, RATE_HZ, scale, counts, False)
        self.memory[self.sequence] = block
        self.memory.pop(self.sequence - MEMORY, None)
        self.made_at[self.acquisition, self.sequence] = self.stage.clock.now
        self.sequence += 1
        self._send(block)

    def _force_counts(self) -> Any:
        """Even over the block's time, with the least bit of noise that any converter has."""
        if self.flat:
            return [self.last_counts] * PER_BLOCK
        begin = self.stage.clock.now - BLOCK_S
        shunt = SHUNT_RATIO if self.shunt else 0.0
        found = []
        for place in range(1, PER_BLOCK + 1):
            newtons = self.stage.force_at(begin + place * BLOCK_S / PER_BLOCK)
            counts = round((newtons / CAPACITY_N * OUTPUT + shunt) / FULL_SCALE * RAIL)
            found.append(min(max(counts + place % 2, -RAIL), RAIL))
        self.last_counts = found[-1]
        return found

    def _send(self, block: SampleBlock) -> None:
        if self.losing > 0:
            self.losing -= 1
            self.trouble()
            return
        delay = self.late_s
        if self.delaying > 0:
            self.delaying -= 1
            delay += 0.35
            self.trouble()
        self.deliver(block, delay)
        if self.doubling > 0:
            self.doubling -= 1
            self.deliver(block, delay + 0.1)

    def deliver(self, block: SampleBlock, delay: float = 0.0) -> None:
        port = self.port
        if port and port.linked and self.reachable:
            self.stage.scheduler.later(delay + 0.005, lambda: port.arrive(block))

    def again(self, first: int, last: int) -> None:
        if self.deaf:
            return
        for sequence in range(first, min(last, first + MEMORY) + 1):
            if old := self.memory.get(sequence):
                fields = (old.acquisition, old.sequence, old.time_ns, old.rate_hz)
                self._send_again(SampleBlock(*fields, old.full_scale, old.counts, True))

    def _send_again(self, block: SampleBlock) -> None:
        if self.losing > 0:
            self.losing -= 1
            self.trouble()
        else:
            self.deliver(block, 0.05)

    def restart(self) -> None:
        """Off and on: a new acquisition, settings and memory gone, connections cut."""
        self.begin_anew()
        self.shunt, self.settings = False, None
        if self.port:
            self.port.cut("it was switched off.")

    def begin_anew(self) -> None:
        """A new acquisition, though the connection stays."""
        self.acquisition += 1
        self.sequence = 0
        self.memory.clear()
        self.settings = None
        self.trouble()


@dataclass(eq=False)
class StandInPort:
    """What the runner asks of a device, answered by the stage's clock."""

    device: StandInDevice
    stage: "Stage"
    process: "Process"
    linked: bool = False
    living: bool = True
    is_streaming: bool = False
    retry_at: float = 0.0
    quiet_since: float | None = None
    polled_at: float = 0.0
    unread: list[SampleBlock] = field(default_factory=list)

    def emit(self, event: events.Event) -> None:
        if self.living:
            self.process.emit(event)

    def set_streaming(self, enabled: bool) -> None:
        self.is_streaming = enabled

    def start(self) -> None:
        self.device.port = self
        self._live()

    def finish(self) -> None:
        self.living = self.linked = False

    def cut(self, why: str) -> None:
        self.device.trouble()
        if self.linked:
            self.linked = False
            self.unread.clear()
            self.retry_at = self.stage.clock.now + RETRY
            self.emit(events.Lost(self.device.label, why))

    def _live(self) -> None:
        if self.living:
            self._turn()
            self.stage.scheduler.later(0.1, self._live)

    def _turn(self) -> None:
        """Link where that can be; notice a silence."""
        now, device = self.stage.clock.now, self.device
        if not device.reachable:
            device.trouble()
        if not self.linked and device.reachable and now >= self.retry_at:
            for _ in range(3):
                self.read_clock()
            self.linked = True
            self.emit(events.Linked(device.label, IDENTITY, ""))
        elif self.linked and not device.reachable:
            self.quiet_since = self.quiet_since or now
            if now - self.quiet_since > SILENCE:
                self.quiet_since = None
                self.cut("no samples arrive.")
        elif self.linked and now - self.polled_at >= 1.0:
            self.polled_at = now
            self.read_clock()
        if device.reachable:
            self.quiet_since = None
        self._read_on()

    def read_clock(self) -> None:
        bench = self.stage.clock.bench_ns()
        reading = ClockReading(self.device.time_ns(), bench, 50_000)
        self.emit(events.ClockRead(self.device.label, reading))

    def arrive(self, block: SampleBlock) -> None:
        """What nobody wants at once waits to be read together."""
        self.unread.append(block)
        self._read_on()

    def _read_on(self) -> None:
        if self.is_streaming or len(self.unread) >= UNHEEDED:
            waiting, self.unread = self.unread, []
            for block in waiting:
                self._read(block)

    def _read(self, block: SampleBlock) -> None:
        if self.living and self.linked and self.device.reachable:
            self.process.receive(self.device, block)

    def _answer(self, make: Callable[[], events.Event]) -> None:
        self.stage.scheduler.later(ANSWER_S, lambda: self.emit(make()))

    def _works(self) -> bool:
        return self.living and self.linked and self.device.reachable

    def configure(self, token: str, settings: object, rate_hz: float) -> None:
        device = self.device
        self.set_streaming(True)

        def answer() -> events.Event:
            if not self._works():
                return events.Configured(device.label, token, None, "the device is not linked.")
            device.settings, device.shunt = settings, False
            self.stage.note_settings(device)
            status = AcquisitionStatus(device.acquisition, 0, device.sequence, rate_hz)
            return events.Configured(device.label, token, status)

        self._answer(answer)

    def _status(self) -> AcquisitionStatus:
        return AcquisitionStatus(self.device.acquisition, 0, self.device.sequence, RATE_HZ)

    def read_status(self, token: str) -> None:
        def answer() -> events.Event:
            works = self._works()
            problem = "" if works else "the device is not linked."
            return events.StatusRead(
                self.device.label, token, self._status() if works else None, problem
            )

        self._answer(answer)

    def set_shunt(self, token: str, inputs: list[int], on: bool) -> None:
        def answer() -> events.Event:
            works = self._works()
            if works:
                self.device.shunt = on
            problem = "" if works else "the device is not linked."
            return events.ShuntSet(self.device.label, token, on, 100e3, problem, self._status())

        self._answer(answer)

    def probe(self, token: str, inputs: list[int]) -> None:
        def answer() -> events.Event:
            works = self._works()
            problem = "" if works else "the device is not linked."
            probes = {n: WELL for n in inputs} if works else {}
            return events.Probed(self.device.label, token, probes, problem, self._status())

        self._answer(answer)

    def tell(self, token: str, what: Any) -> None:
        self._answer(lambda: events.CommandFinished(self.device.label, token, {}))

    def send_again(self, first: int, last: int) -> None:
        if self._works():
            self.device.again(first, last)


def force_of(ratio: float) -> float:
    """N, of a signal of input 1."""
    return ratio / OUTPUT * CAPACITY_N if math.isfinite(ratio) else ratio
