"""A bench on a virtual clock: the recorder's real parts between stand-ins that a test can turn.

Real: the runner, its tracks, block orders, timelines, keepers and envelopes, the writer, the
actuator port. Stood in for: devices and their ports, the load frame, the database, the desk
that brings orders. Time passes only by `Stage.step`.
"""

import itertools
import json
import uuid
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field
from datetime import UTC, datetime, timedelta
from functools import cache
from pathlib import Path

import numpy as np
from django.db.utils import DataError, OperationalError
from yoke_core.clock import ClockReading
from yoke_core.envelope import Envelope
from yoke_server.bench.drivers.base import (
    AcquisitionStatus,
    DriverError,
    FrameState,
    Identity,
    Refusal,
    SampleBlock,
)
from yoke_server.bench.models import OrderState
from yoke_server.record.envelopes import LEVELS, EnvelopeWriter, unpack
from yoke_server.record.models import FOLLOWING, RunState
from yoke_server.record.recorder import events
from yoke_server.record.recorder.actuator_port import ActuatorPort
from yoke_server.record.recorder.resume import ResumedStream
from yoke_server.record.recorder.runner import BenchRecorder, Parts
from yoke_server.record.recorder.timeline import Span
from yoke_server.record.recorder.writer import Writer
from yoke_server.wire.document import FrozenSetup, read_document

EPOCH = datetime(2026, 1, 1, tzinfo=UTC)
START_NS = 1_800_000_000_000_000_000
BLOCK_S = 0.5
PER_BLOCK = 5
MEMORY = 120  # blocks, a minute
STEP = 0.25  # s
RETRY = 1.0
SILENCE = 3.0  # s until a link that went quiet counts as lost
HEARTBEAT = 1.0
RAIL = 2**23 - 1
IDENTITY = Identity("stand-in", "1", "1", "passed")
FIXED = Path(__file__).parents[1] / "server" / "golden" / "setup-v2.json"


@cache
def two_devices() -> FrozenSetup:
    """Force and extension on A1, a gauge on A2."""
    document = json.loads(FIXED.read_text())
    _, clip, gauge = document["channels"]
    gauge |= {"device_label": "A2", "input_number": 1}
    clip["input_number"] = 2
    document["rates_hz"] = {"A1": PER_BLOCK / BLOCK_S, "A2": PER_BLOCK / BLOCK_S}
    return read_document(document)


class VirtualClock:
    def __init__(self) -> None:
        self.now = 100.0

    def monotonic(self) -> float:
        return self.now

    def bench_ns(self) -> int:
        return START_NS + round(self.now * 1e9)

    def utc(self) -> datetime:
        return EPOCH + timedelta(seconds=self.now)


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

    def start(self) -> None:
        self.device.port = self

    def finish(self) -> None:
        self.living = self.linked = False

    def cut(self, why: str) -> None:
        if self.linked:
            self.linked = False
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

    def read_clock(self) -> None:
        bench = self.stage.clock.bench_ns()
        reading = ClockReading(self.device.time_ns(), bench, 50_000)
        self.emit(events.ClockRead(self.device.label, reading))

    def arrive(self, block: SampleBlock) -> None:
        current = block.acquisition == self.device.acquisition
        if current and self.living and self.linked and self.device.reachable:
            self.stage.received(self.device.label, block)
            self.emit(events.Arrived(self.device.label, block))

    def _answer(self, event: events.Event) -> None:
        if self.living:
            self.stage.later(0.1, lambda: self.living and self.emit(event))

    def configure(self, token: str, settings: object, rate_hz: float) -> None:
        device = self.device
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

    def send_again(self, first: int, last: int) -> None:
        if self.linked and self.device.reachable:
            self.device.again(first, last)


@dataclass(eq=False)
class StandInFrame:
    """The load frame: moves as told, holds without a heartbeat or without its host."""

    stage: "Stage"
    motion: str = "HOLD"
    position_m: float = 0.0
    reachable: bool = True
    heard_at: float = 0.0
    host: object = None
    loads_until: float = 0.0
    cause: str = ""

    def pass_time(self, seconds: float) -> None:
        if self.motion == "RAMP":
            self.position_m += 2e-4 * seconds
        elif self.motion == "RETURN":
            self.position_m = max(0.0, self.position_m - 5e-3 * seconds)
            if self.position_m == 0:
                self.motion = "HOLD"
        elif self.motion == "FORCE" and self.stage.clock.now >= self.loads_until:
            self.motion, self.cause = "HOLD", "arrived"
        if self.stage.clock.now - self.heard_at > HEARTBEAT:
            self.motion, self.cause = "HOLD", "no heartbeat"


class FrameDriver:
    """A connection to the stand-in frame."""

    capabilities = frozenset()

    def __init__(self, frame: StandInFrame) -> None:
        self._frame = frame

    def _hear(self) -> StandInFrame:
        if not self._frame.reachable or self._frame.host is not self:
            raise DriverError("the connection to the device broke.")
        self._frame.heard_at = self._frame.stage.clock.now
        return self._frame

    def connect(self) -> Identity:
        if not self._frame.reachable:
            raise DriverError("nothing answers.")
        return IDENTITY

    def close(self) -> None:
        if self._frame.host is self:
            self._frame.host, self._frame.motion = None, "HOLD"

    def take_control(self, host: str) -> None:
        self._frame.host = self
        self._hear()

    def ramp(self, speed_m_s: float, target_m: float) -> None:
        self._hear().motion = "RAMP"
        self._frame.stage.ramps += 1

    def force_ramp(self, rate_n_s: float, peak_n: float) -> None:
        frame = self._hear()
        frame.motion, frame.loads_until = "FORCE", frame.stage.clock.now + 2 * peak_n / rate_n_s

    def force_sine(self, lowest_n: float, highest_n: float, frequency_hz: float) -> None:
        if highest_n > 20e3:
            raise Refusal("force outside the force limit.")
        self._hear().motion = "SINE"

    def go_home(self) -> None:
        self._hear().motion = "RETURN"

    def stop(self) -> None:
        frame = self._hear()
        frame.motion, frame.cause = "HOLD", "told to"

    def state(self) -> FrameState:
        frame = self._hear()
        return FrameState(frame.motion, frame.position_m, frame.cause)


@dataclass(eq=False)
class Order:
    kind: str
    arguments: dict
    given_at: float
    expires: float
    state: OrderState = OrderState.WAITING
    answer: dict = field(default_factory=dict)
    turn: int = 0  # the orders that the recorder took, counted
    taken_at: float | None = None
    waited_for: float = 8.0


class StandInDesk:
    """Orders as rows: claimed once, answered while claimed, given up by who waits for them."""

    def __init__(self, stage: "Stage") -> None:
        self.stage = stage
        self.heard_at = stage.clock.now
        self._unsaid: deque[tuple[str, OrderState, dict]] = deque()

    def answer(self, key: str, state: OrderState, answer: dict) -> None:
        self._unsaid.append((key, state, answer))

    def note(self, label: str, **facts: object) -> None:
        pass

    def turn(self, emit: Callable[[events.Event], None]) -> None:
        stage = self.stage
        if stage.database.away:
            return
        self.heard_at = stage.clock.now
        for key, order in stage.orders.items():
            if order.state == OrderState.WAITING:
                order.state, order.taken_at = OrderState.CLAIMED, stage.clock.now
                order.turn = next(stage.turns)
                expires = EPOCH + timedelta(seconds=order.expires)
                setup = stage.setup if order.kind == "start" else None
                emit(events.OrderIn(key, order.kind, order.arguments, expires, setup))
        while self._unsaid:
            key, state, answer = self._unsaid.popleft()
            if stage.orders[key].state == OrderState.CLAIMED:
                stage.orders[key].state, stage.orders[key].answer = state, answer


@dataclass(eq=False)
class StoredStream:
    label: str
    blocks: list = field(default_factory=list)  # BlockValues in order
    segments: list = field(default_factory=list)
    envelope: dict = field(default_factory=dict)
    written: deque = field(default_factory=deque)  # (time, undo)

    @property
    def samples(self) -> int:
        return sum(b[2] for b in self.blocks)


@dataclass(eq=False)
class StoredRun:
    order_key: str
    start_ns: int
    state: str = RunState.RECORDING
    why: str = ""
    streams: dict[str, int] = field(default_factory=dict)
    seals: dict[int, bytes] = field(default_factory=dict)


class StandInDatabase:
    """Keeps rows as PostgreSQL does; goes away, loses answers, crashes, refuses for good."""

    def __init__(self, stage: "Stage") -> None:
        self.stage = stage
        self.away = False
        self.lose_answers = 0
        self.refuse_runs: set[int] = set()
        self.runs: dict[int, StoredRun] = {}
        self.streams: dict[int, StoredStream] = {}
        self._ids = itertools.count(1)
        self.connected = False

    def connect(self) -> bool:
        self._need()
        self.connected = True
        return True

    def disconnect(self) -> None:
        self.connected = False

    def leave(self) -> None:
        self.connected = False

    def _need(self) -> None:
        if self.away:
            raise OperationalError("the database is away")

    def _need_connection(self) -> None:
        self._need()
        if not self.connected:
            raise OperationalError("the connection is lost")

    def _answer(self) -> None:
        if self.lose_answers > 0:
            self.lose_answers -= 1
            self.connected = False
            raise OperationalError("server closed the connection unexpectedly")

    def write(self, work, again=False) -> None:
        self._need_connection()
        if any(w.run_id in self.refuse_runs for w in work):
            raise DataError("value too long") from _Refusal()
        for w in work:
            self._store(w, again)
        self._answer()

    def write_again(self, work) -> None:
        self.write(work, again=True)

    def _store(self, work, again: bool) -> None:
        stream = self.streams[work.stream_id]
        if work.block[1] < stream.samples:
            assert again, "the same rows written twice, and not known to be a repetition"
            return
        assert work.block[1] == stream.samples, "a hole between the rows of a stream"
        stream.blocks.append(work.block)
        stream.segments += [s for s in work.segments if s not in stream.segments]
        for row in work.envelope:
            stream.envelope.setdefault((row[1], row[2]), row)
        stream.written.append((self.stage.clock.now, work))

    def begin(self, plan) -> events.Event:
        self._need_connection()
        known = [i for i, r in self.runs.items() if r.order_key == plan.order_key]
        if not known and plan.cancelled:
            return events.NotBegun(plan.order_key, plan.cancelled)
        if not known:
            order = self.stage.orders[plan.order_key]
            late = order.expires <= self.stage.clock.now
            if order.state != OrderState.CLAIMED or late:
                return events.NotBegun(plan.order_key, "given up")
            order.state = OrderState.DONE
            run_id = next(self._ids)
            self.runs[run_id] = StoredRun(plan.order_key, plan.start_ns)
            for label in plan.channels:
                stream_id = next(self._ids)
                self.streams[stream_id] = StoredStream(label)
                self.runs[run_id].streams[label] = stream_id
            known = [run_id]
        self._flushed()
        self._answer()
        run = self.runs[known[0]]
        return events.Began(plan.order_key, known[0], f"run {known[0]}", dict(run.streams))

    def close(self, work) -> None:
        self._need_connection()
        run = self.runs[work.run_id]
        if work.state in FOLLOWING[run.state]:
            run.state, run.why = work.state, work.why
            for closed in work.streams:
                stored = self.streams[closed.stream_id]
                run.seals[closed.stream_id] = closed.chain
                for row in closed.envelope:
                    assert stored.envelope.setdefault((row[1], row[2]), row) is row
                if work.run_id not in self.refuse_runs:
                    assert stored.samples == closed.samples, "closed with samples missing"
        self._flushed()
        self._answer()

    def _flushed(self) -> None:
        """What waits for the disk takes along all that was written before."""
        for stream in self.streams.values():
            stream.written.clear()

    def crash(self) -> None:
        """The server loses at most its last half second of what did not wait for the disk."""
        self.connected = False
        lost_from = self.stage.clock.now - 0.5
        for stream in self.streams.values():
            while stream.written and stream.written[-1][0] > lost_from:
                _, work = stream.written.pop()
                assert stream.blocks.pop() == work.block
                for row in work.envelope:
                    stream.envelope.pop((row[1], row[2]), None)
                stream.segments = [s for s in stream.segments if s not in work.segments]

    def open_run(self) -> tuple[int, StoredRun] | None:
        return next(((i, r) for i, r in self.runs.items() if r.state == RunState.RECORDING), None)


class _Refusal(Exception):
    sqlstate = "22001"


class Silent:
    """Shows to nobody."""

    def frame(self, payload: bytes) -> None: ...
    def state(self, state: dict) -> None: ...
    def news(self, kind: str) -> None: ...


class Stage:
    """Everything together. `step` lets time pass; faults are set on the parts."""

    def __init__(self, queue_bytes: int = 1 << 20) -> None:
        self.clock = VirtualClock()
        self.setup = two_devices()
        self.orders: dict[str, Order] = {}
        self.database = StandInDatabase(self)
        self.frame = StandInFrame(self)
        self.devices = {"A1": StandInDevice("A1", self, 12), "A2": StandInDevice("A2", self, -30)}
        self.force = 0.0
        self.ramps = 0
        self.ramped: list[str] = []  # tokens of ramps that were carried out
        self._later: list[tuple[float, int, Callable[[], object]]] = []
        self._count = itertools.count()
        self.turns = itertools.count(1)
        self._inbox: deque[events.Event] = deque()
        self._queue_bytes = queue_bytes
        self.recorder: BenchRecorder | None = None
        self.writer: Writer | None = None
        self.actuator: ActuatorPort | None = None
        self.desk = StandInDesk(self)
        self.in_run: dict[tuple[int, str], set[int]] = {}  # sequences handled while recording
        self.start()

    # The recorder's life

    def start(self) -> None:
        """A fresh recorder process."""
        if self.database.away or self.recorder:
            return
        self._inbox = deque()
        inbox = self._inbox
        self.desk = StandInDesk(self)
        self.writer = Writer(self.database, self.clock, inbox.append, self._queue_bytes)
        parts = Parts(
            self.clock, self.writer, self.desk, Silent(), self._make_port, self._make_actuator,
            lambda: None,
        )  # fmt: skip
        for order in self.orders.values():
            if order.state == OrderState.CLAIMED:
                order.state = OrderState.REFUSED
        self.recorder = BenchRecorder(parts)
        addresses = {name: events.Address("stand-in", name, 1) for name in self.devices}
        addresses["frame"] = events.Address("frame", "frame", 1)
        inbox.append(events.DevicesKnown(addresses))
        inbox.append(events.SetupLoaded(self.setup))
        if found := self.database.open_run():
            inbox.append(self._found(*found))

    def crash(self) -> None:
        """kill -9: everything in memory is gone, connections are closed by the system."""
        if self.recorder is None:
            return
        self.recorder = self.writer = self.actuator = None
        self.in_run.clear()  # what a dead recorder had in hand must come again, or show
        self._inbox = deque()
        self.database.connected = False
        for device in self.devices.values():
            if device.port:
                device.port.finish()
                device.port = None
        if self.frame.host:
            self.frame.host.close()

    def _make_port(self, label: str, address: events.Address) -> StandInPort | None:
        if address.driver != "stand-in":
            return None
        return StandInPort(self.devices[label], self, self._inbox.append)

    def _make_actuator(self, label: str, address: events.Address) -> ActuatorPort:
        port = ActuatorPort("stage", lambda: FrameDriver(self.frame), self.clock, self._note)
        port.start = lambda: setattr(port, "_alive_at", self.clock.now)  # turned by `step`
        port.finish = lambda: None
        self.actuator = port
        return port

    def _note(self, event: events.Event) -> None:
        if isinstance(event, events.FrameDone) and event.deed == "move" and not event.problem:
            self.ramped.append(event.token)
        self._inbox.append(event)

    def _found(self, run_id: int, run: StoredRun) -> events.OpenRunFound:
        streams = {label: self._resumed(s) for label, s in run.streams.items()}
        return events.OpenRunFound(run_id, f"run {run_id}", self.setup, run.start_ns, streams)

    def _resumed(self, stream_id: int) -> ResumedStream:
        stream = self.database.streams[stream_id]
        last = stream.blocks[-1] if stream.blocks else None
        writer = EnvelopeWriter(stream_id, channels_of(stream))
        reached = [
            max((k[1] + r[3] for k, r in stream.envelope.items() if k[0] == level), default=0)
            for level in range(1, LEVELS + 1)
        ]
        writer.resume(
            reached, lambda first: data_of(stream)[:, first:], lambda *at: stored_pairs(stream, *at)
        )
        row = stream.segments[-1] if stream.segments and last else None
        span = row and Span(row[1], row[2], row[3], row[4], row[5], row[6], row[7])
        if last is None:
            return ResumedStream(stream_id, 0, -1, b"", None, writer)
        return ResumedStream(stream_id, stream.samples, last[3], last[6], span, writer)

    # What a person does

    def order(self, kind: str, seconds: float = 8.0, **arguments: object) -> str:
        key = str(uuid.UUID(int=next(self._count) + (1 << 64)))
        now = self.clock.now
        self.orders[key] = Order(kind, arguments, now, now + seconds, waited_for=seconds)
        return key

    def start_order(self, pull: bool = True, **more: object) -> str:
        return self.order("start", revision=1, pull=pull, operator=None, **more)

    # Time

    def later(self, delay: float, act: Callable[[], object]) -> None:
        self._later.append((self.clock.now + delay, next(self._count), act))

    def received(self, label: str, block: SampleBlock) -> None:
        recorder = self.recorder
        if recorder and recorder.recording and label in recorder.recording.tracks:
            track = recorder.recording.tracks[label]
            if block.acquisition == track.order.acquisition:
                key = (recorder.recording.run_id, label)
                self.in_run.setdefault(key, set()).add(block.sequence)

    def run(self, seconds: float) -> None:
        for _ in range(round(seconds / STEP)):
            self.step()

    def step(self) -> None:
        self.clock.now += STEP
        self.frame.pass_time(STEP)
        for device in self.devices.values():
            if device.port:
                device.port.turn()
            if self.clock.now >= device.next_at:
                device.next_at = self.clock.now + BLOCK_S
                device.make(self.force)
        self._do_later()
        self._give_up_orders()
        self._turn_recorder()

    def _do_later(self) -> None:
        due = sorted(x for x in self._later if x[0] <= self.clock.now)
        self._later = [x for x in self._later if x[0] > self.clock.now]
        for _, _, act in due:
            act()

    def _give_up_orders(self) -> None:
        for order in self.orders.values():
            waiting = order.state in (OrderState.WAITING, OrderState.CLAIMED)
            late = self.clock.now - order.given_at > order.waited_for
            if waiting and late and not self.database.away:
                order.state = OrderState.REFUSED

    def _turn_recorder(self) -> None:
        recorder, writer = self.recorder, self.writer
        if recorder is None or writer is None:
            return
        for _ in range(3):
            if not writer.step():
                break
        self.desk.turn(self._inbox.append)
        self._handle_all(recorder)
        recorder.tick()
        if self.actuator:
            self.actuator.step()
        self._handle_all(recorder)

    def _handle_all(self, recorder: BenchRecorder) -> None:
        while self._inbox:
            recorder.handle(self._inbox.popleft())


# Reading what was stored


def channels_of(stream: StoredStream) -> int:
    return 2 if stream.label == "A1" else 1


def data_of(stream: StoredStream) -> np.ndarray:
    parts = [np.frombuffer(b[7], "<f4").reshape(-1, b[2]) for b in stream.blocks]
    return np.concatenate([np.empty((channels_of(stream), 0), np.float32), *parts], axis=1)


def stored_pairs(stream: StoredStream, level: int, first: int) -> Envelope:
    rows = sorted((k[1], r) for k, r in stream.envelope.items() if k[0] == level and k[1] >= first)
    found = [unpack(row[4], row[3]) for _, row in rows]
    none = np.empty((channels_of(stream), 0), np.float32)
    return Envelope(
        np.concatenate([none, *(f.low for f in found)], axis=1),
        np.concatenate([none, *(f.high for f in found)], axis=1),
    )


def sequences_of(stream: StoredStream) -> list[int]:
    """Which of the device's blocks are stored, from what their samples say."""
    places = data_of(stream)[-1] * (RAIL / np.float64(np.float32(8e-3)))
    numbers = np.rint(places).astype(int)
    assert len(numbers) % PER_BLOCK == 0, "a block is stored in part"
    blocks = numbers.reshape(-1, PER_BLOCK)
    assert (np.diff(blocks, axis=1) == 1).all(), "samples of a block are mixed up"
    return list(blocks[:, 0] // PER_BLOCK)
