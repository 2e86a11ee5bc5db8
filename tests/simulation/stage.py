"""A bench on a virtual clock: the recorder's real parts between stand-ins that a test can turn.

Real: the runner, its tracks, block orders, timelines, keepers and envelopes, the writer, the
actuator port. Stood in for: devices and their ports, the load frame, the database, the order
listener. Time passes only by `Stage.step`.
"""

import itertools
import json
import uuid
from collections import deque
from collections.abc import Callable
from functools import cache
from pathlib import Path

from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.bench.models import OrderState
from yoke_server.record.envelopes import EnvelopeWriter
from yoke_server.record.levels import LEVELS
from yoke_server.record.recorder.control.parts import Parts
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.ports.actuator_port import ActuatorPort
from yoke_server.record.recorder.runner import BenchRecorder
from yoke_server.record.recorder.storage.resume import ResumedStream
from yoke_server.record.recorder.storage.writer import Writer
from yoke_server.record.recorder.stream.timeline import PlacedSegment
from yoke_server.wire.document import FrozenSetup, read_document
from yoke_server.wire.specs.base import Spec

from tests.simulation.database import StandInDatabase, StoredRun, channels_of, data_of, stored_pairs
from tests.simulation.devices import StandInDevice, StandInPort
from tests.simulation.frame import FrameDriver, StandInFrame
from tests.simulation.listener import Order, StandInListener
from tests.simulation.virtual import BLOCK_S, PER_BLOCK, STEP, VirtualClock

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


class Silent:
    """Shows to nobody; counts how often screens were told to look anew."""

    told = 0

    def frame(self, payload: bytes) -> None: ...
    def state(self, state: dict) -> None: ...

    def news(self, kind: str) -> None:
        self.told += 1


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
        self.moves = 0  # motions that the frame took up, but for returns
        self.moved: list[str] = []  # tokens of those that were carried out
        self._later: list[tuple[float, int, Callable[[], object]]] = []
        self._count = itertools.count()
        self.turns = itertools.count(1)
        self._inbox: deque[events.Event] = deque()
        self._queue_bytes = queue_bytes
        self.recorder: BenchRecorder | None = None
        self.writer: Writer | None = None
        self.actuator: ActuatorPort | None = None
        self.listener = StandInListener(self)
        self.in_run: dict[tuple[int, str], set[int]] = {}  # sequences handled while recording
        self.start()

    # The recorder's life

    def start(self) -> None:
        """A fresh recorder process."""
        if self.database.away or self.recorder:
            return
        self._inbox = deque()
        inbox = self._inbox
        self.listener = StandInListener(self)
        self.writer = Writer(self.database, self.clock, inbox.append, self._queue_bytes)
        parts = Parts(
            self.clock, self.writer, self.listener, Silent(), self._make_port, self._make_actuator,
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
            self.database.put_on_disk()
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
        if (
            isinstance(event, events.ActuatorCommandFinished)
            and event.deed == "move"
            and not event.problem
        ):
            self.moved.append(event.token)
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
        span = row and PlacedSegment(row[1], row[2], row[3], row[4], row[5], row[6], row[7])
        if last is None:
            return ResumedStream(stream_id, 0, -1, b"", None, writer)
        return ResumedStream(stream_id, stream.samples, last[3], last[6], span, writer)

    # What a person does

    def programme(self, motion: Spec, stops: list[Spec]) -> None:
        """Another motion and other ends of a run on the bench's setup."""
        self.put(self.setup.model_copy(update={"motion": motion, "stops": stops}))

    def put(self, setup: FrozenSetup) -> None:
        """Another version of the setup on the bench."""
        self.setup = setup
        if self.recorder:
            self._inbox.append(events.SetupLoaded(self.setup))

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
        if recorder and recorder.run.recording and label in recorder.run.recording.tracks:
            track = recorder.run.recording.tracks[label]
            if block.acquisition == track.order.acquisition:
                key = (recorder.run.recording.run_id, label)
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
        if self.database.away:
            return
        for order in self.orders.values():
            late = self.clock.now - order.given_at > order.waited_for
            if late and order.state in (OrderState.WAITING, OrderState.CLAIMED):
                order.state = OrderState.REFUSED

    def _turn_recorder(self) -> None:
        recorder, writer = self.recorder, self.writer
        if recorder is None or writer is None:
            return
        for _ in range(3):
            if not writer.step():
                break
        self.listener.turn(self._inbox.append)
        self._handle_all(recorder)
        recorder.tick()
        if self.actuator:
            self.actuator.step()
        self._handle_all(recorder)

    def _handle_all(self, recorder: BenchRecorder) -> None:
        while self._inbox:
            recorder.handle(self._inbox.popleft())
