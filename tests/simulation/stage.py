"""A bench on a virtual clock: the recorder's real parts between stand-ins that a test can turn.

Real: the runner with its device lines, conditions, writers and envelopes, the writer, the order
and stop listeners, the life sign, how runs begin, end and are gone on with, the actuators'
ports. Stood in for: the database's server below their sessions, devices and their ports,
actuators, screens. Each thread of a recorder is a task; time passes only by `Stage.run`.
"""

import itertools
import json
import random
import uuid
from collections import deque
from collections.abc import Callable, Sequence
from datetime import datetime, timedelta
from functools import cache
from pathlib import Path
from typing import Any

from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.bench.models import OrderState
from yoke_server.bench.stops import StopRequested
from yoke_server.common.db.notify import NEWS
from yoke_server.kinds.keep_rules.bursts import Bursts
from yoke_server.kinds.keep_rules.everything import Everything
from yoke_server.kinds.keep_rules.turning_points import TurningPoints
from yoke_server.kinds.spec import Spec
from yoke_server.kinds.triggers.at_once import AtOnce
from yoke_server.live.protocol import BenchState
from yoke_server.record.recorder.control.parts import Parts
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.orders.life_sign import LifeSign
from yoke_server.record.recorder.orders.listener import OrderListener
from yoke_server.record.recorder.orders.stop_listener import StopListener
from yoke_server.record.recorder.ports.actuator_port import ActuatorPort
from yoke_server.record.recorder.runner import BenchRecorder
from yoke_server.record.recorder.storage.bench_database import BenchDatabase
from yoke_server.record.recorder.storage.writer import Writer
from yoke_server.setups.document import FrozenSetup, read_document

from tests.simulation.actuator import StandInActuator, StandInDriver
from tests.simulation.devices import StandInDevice, StandInPort
from tests.simulation.rules import GATE_N
from tests.simulation.scheduler import Scheduler, Signal
from tests.simulation.server import OrderRow, StandInServer, StopRow
from tests.simulation.sessions import StandInOrders, StandInSigns, StandInStops, StandInStore
from tests.simulation.virtual import RATE_HZ, VirtualClock

FIXED = Path(__file__).parents[1] / "server" / "setups" / "golden" / "setup-v2.json"
BENCH = 1
FORCE = "0f3a1b7c21d9"
KEEP_RULES = [
    Everything(),
    Everything(rate_hz=5.0),
    Bursts(length=1.0, every=2.0),
    TurningPoints(channel=FORCE, gate=GATE_N),
]
TICK, PATIENCE, RETRY = 0.2, 0.3, 0.5
STEP = 0.05  # s between two looks at how far the actuator has moved
SIGN_EVERY = 1.0
LIFE_S = 8.0  # of an order
TELL_AGAIN = 1.0  # s; of a stop that is not confirmed


@cache
def two_devices() -> FrozenSetup:
    """Force and extension on A1, a gauge on A2."""
    document = json.loads(FIXED.read_text())
    force, clip, gauge = document["channels"]
    force["zero_mv_v"] = 0.0
    gauge |= {"device_label": "A2", "input_number": 1}
    clip["input_number"] = 2
    document["rates_hz"] = {"A1": RATE_HZ, "A2": RATE_HZ}
    return read_document(document).model_copy(update={"keep_rules": KEEP_RULES})


class Silent:
    """Shows to nobody; counts how often screens were told to look anew, keeps the last state."""

    told = 0

    def __init__(self) -> None:
        self.last: BenchState | None = None

    def frame(self, payload: bytes) -> None: ...
    def state(self, state: BenchState) -> None:
        json.dumps(state.model_dump(mode="json"), allow_nan=False)  # as screens get it
        self.last = state

    def news(self, kind: str) -> None:
        self.told += 1


class Process:
    """A recorder process that serves the bench: its threads are tasks of the stage."""

    def __init__(self, stage: "Stage", queue_bytes: int) -> None:
        self.stage = stage
        self.holder = f"recorder {next(stage.count)}"
        self.inbox: deque[events.Event] = deque()
        self.living = True
        self.hung = False
        self._rung, self._work, self._stop_kept = (Signal(stage.scheduler) for _ in range(3))
        self._tick_due = 0.0
        self._turning = False
        server, addresses, clock = stage.server, stage.addresses, stage.clock
        self.writer = Writer(
            BenchDatabase(StandInStore(server, addresses), self.holder),
            clock,
            self.emit,
            queue_bytes,
        )
        orders = StandInOrders(server, addresses)
        self.listener = OrderListener(orders, self.holder, BENCH, clock, self.emit)
        self.stops = StopListener(StandInStops(server, addresses), clock, self._stop, self._latch)
        self.life = LifeSign(StandInSigns(server, addresses), self.holder, clock, self.emit)
        self.publisher = Silent()
        _also(self.writer, "put", self._work.set)
        _also(self.life, "keep_stop", self._stop_kept.set)
        self.actuators: dict[str, ActuatorPort] = {}
        self.recorder = BenchRecorder(
            Parts(
                clock,
                self.writer,
                self.listener,
                self.stops,
                self.life,
                self.publisher,
                self._make_port,
                self._make_actuator,
                lambda: None,
            )
        )
        stage.scheduler.spawn(self, self._write)
        stage.scheduler.spawn(self, self._serve)

    @property
    def hears_stops(self) -> bool:
        return self.stops.is_listening and not self.stops._session._broken

    @property
    def sleep(self) -> Callable[[float], None]:
        return self.stage.scheduler.sleep

    # Its threads, as `bench_thread.py` has them

    def _write(self) -> None:
        while self.living:
            if not self.writer.step():
                self.sleep(RETRY)
            elif self.writer.idle:
                self._work.wait(RETRY)
            else:
                self.sleep(0.001)

    def _serve(self) -> None:
        while not self.writer.holding.is_set():
            self.sleep(TICK)
        spawn = self.stage.scheduler.spawn
        spawn(self, self._hear_stops)
        spawn(self, self._sign)
        while not self.stops.listening.is_set():
            self.sleep(TICK)
        spawn(self, self._hear_orders)
        while self.living and not self.recorder.taken:
            self.take_turn(rung=self._rung.wait(PATIENCE))
        if self.recorder.taken:
            self.stage.end(self)

    def _hear_stops(self) -> None:
        while self.living:
            if not self.stops.step():
                self.sleep(RETRY)

    def _sign(self) -> None:
        while self.living:
            if self.life.step():
                self._stop_kept.wait(SIGN_EVERY)
            else:
                self.sleep(SIGN_EVERY)

    def _hear_orders(self) -> None:
        while self.living:
            if self.listener.step():
                self.listener.rest()
            else:
                self.sleep(RETRY)

    def _move(self, port: ActuatorPort, woken: Signal) -> Callable[[], None]:
        def run() -> None:
            while self.living and not port._ended:
                if not port._woken:
                    woken.wait(port.patience)
                port.step()

        return run

    # Events

    def emit(self, event: events.Event) -> None:
        if self.living:
            self.inbox.append(event)
            if not isinstance(event, events.ClockRead | events.ActuatorState):
                self._rung.set()

    def receive(self, device: StandInDevice, block: SampleBlock) -> None:
        self.emit(events.Arrived(device.label, block))
        self.take_turn()

    def _stop(self, stop: StopRequested) -> None:
        self.recorder.stop_now(stop)
        self.inbox.appendleft(stop)
        self._rung.set()

    def _latch(self, stop: StopRequested) -> None:
        self.recorder.stop_now(stop)

    def take_turn(self, *, rung: bool = False) -> None:
        if self.hung or not self.living or self._turning:
            return
        self._turning = True
        while self.inbox and not self.recorder.taken:
            event = self.inbox.popleft()
            self.recorder.handle(event)
            self.stage.saw(self, event)
        now = self.stage.clock.now
        if not self.recorder.taken and (rung or now >= self._tick_due):
            self._tick_due = now + TICK
            self.recorder.tick()
        self._turning = False

    # What it is given

    def _make_port(self, label: str, address: events.Address) -> StandInPort | None:
        if address.driver != "stand-in":
            return None
        return StandInPort(self.stage.devices[label], self.stage, self)

    def _make_actuator(self, label: str, address: events.Address) -> ActuatorPort:
        actuator = self.stage.actuators[label]
        port = ActuatorPort(
            label, "stage", lambda: StandInDriver(actuator), self.stage.clock, self.emit
        )
        woken = Signal(self.stage.scheduler)
        _also(port, "_notify", woken.set)
        port.start = lambda: self.stage.scheduler.spawn(self, self._move(port, woken))  # type: ignore[method-assign]
        port.finish = lambda: None  # type: ignore[method-assign]
        self.actuators[label] = port
        return port


def _also(part: Any, name: str, act: Callable[[], None]) -> None:
    """Do something more whenever a method of one part is called."""
    method = getattr(part, name)

    def both(*arguments: Any) -> None:
        method(*arguments)
        act()

    setattr(part, name, both)


class Stage:
    """Everything together. `run` lets time pass; faults are set on the parts.

    dice : draws whose turn comes when; without it every turn comes in time
    """

    def __init__(self, queue_bytes: int = 1 << 20, dice: random.Random | None = None) -> None:
        self.clock = VirtualClock()
        self.scheduler = Scheduler(self.clock, dice)
        self.count = itertools.count(1)
        self.addresses = {name: events.Address("stand-in", name, 1) for name in ("A1", "A2")}
        self.addresses["frame"] = events.Address("servo actuator", "frame", 1)
        self.server = StandInServer(self.scheduler)
        self.server.setup = two_devices()
        self.frame = StandInActuator(self)
        self.actuators = {"frame": self.frame}
        self.devices = {"A1": StandInDevice("A1", self, 12), "A2": StandInDevice("A2", self, -30)}
        self.force: float | None = None  # N, instead of what the actuator does
        self.queue_bytes = queue_bytes
        self.process: Process | None = None
        self.others: list[Process] = []
        self.ended_at: list[float] = []  # when a recorder was killed, or ended
        self.told_at: dict[str, float] = {}  # when a recorder that listened was told of a stop
        self.being_told: set[str] = set()  # stops that nobody has confirmed, told again and again
        self.motions: list[tuple[float, str, str]] = []  # when, what, by which name
        self.watch: Any = None  # whoever checks rules is told what happens
        for device in self.devices.values():
            device.live()
        self.start()

    # The recorder's life

    def start(self) -> None:
        """A fresh recorder process."""
        if self.process is None:
            self.process = Process(self, self.queue_bytes)

    def crash(self) -> None:
        """kill -9: everything in memory is gone, connections are closed by the system."""
        if self.process:
            self.end(self.process)

    def start_another(self) -> None:
        """One more recorder for the same bench."""
        self.others.append(Process(self, self.queue_bytes))

    def end(self, process: Process) -> None:
        process.living = False
        self.ended_at.append(self.clock.now)
        self.scheduler.kill(process)
        if self.watch:
            self.watch.process_died()
        for session in list(self.server.sessions):
            if self._is_of(session, process):
                session.drop()
        for device in self.devices.values():
            if device.port and device.port.process is process:
                device.port.finish()
                device.port = None
        for port in process.actuators.values():
            if port._driver:
                port._driver.close()
        if process in self.others:
            self.others.remove(process)
        if process is self.process:
            self.process = self.others.pop(0) if self.others else None

    @staticmethod
    def _is_of(session: Any, process: Process) -> bool:
        parts = (
            process.writer._database,
            process.listener,
            process.stops,
            process.life,
        )
        return any(part._session is session for part in parts)

    @property
    def recorder(self) -> BenchRecorder:
        assert self.process is not None
        return self.process.recorder

    # What is noted for whoever checks

    def note_motion(self, actuator: StandInActuator, motion: str, motion_id: str) -> None:
        self.motions.append((self.clock.now, motion, motion_id))

    def note_settings(self, device: StandInDevice) -> None: ...

    def saw(self, process: Process, event: events.Event) -> None:
        if self.watch and isinstance(event, events.Arrived):
            self.watch.saw_block(process, event)

    # What a person does

    def programme(
        self,
        motion: Spec,
        stops: list[Spec],
        guards: Sequence[Spec] = (),
        trigger: Spec | None = None,
    ) -> None:
        """Another motion, other ends, guards and trigger of a run on the bench's setup."""
        changes = {"motion": motion, "stops": stops, "guards": list(guards)}
        changes |= {"trigger": trigger or AtOnce()}
        self.put(self.server.setup.model_copy(update=changes))

    def put(self, setup: FrozenSetup | None) -> None:
        """Another version of the setup on the bench."""
        self.server.setup = setup
        self.server.notify(NEWS, json.dumps({"bench": BENCH, "kind": "setup"}))

    def order(self, kind: str, seconds: float = LIFE_S, **arguments: object) -> str:
        """Ask for something now; the row comes at once, the notice too."""
        return self.order_as_of(self.server.utc(), kind, seconds, **arguments)

    def order_as_of(
        self, requested_at: datetime, kind: str, seconds: float = LIFE_S, **arguments: object
    ) -> str:
        """An order whose request came in earlier: somebody's lock held it up."""
        key = str(uuid.UUID(int=next(self.count) + (1 << 64)))
        self.server.orders[key] = OrderRow(
            key,
            kind,
            dict(arguments),
            requested_at,
            requested_at + timedelta(seconds=seconds),
            self.clock.now,
        )
        self.scheduler.later(seconds, lambda: self._give_up(key))
        self.server.notify(NEWS, "{}")
        return key

    def start_order(self, pull: bool = True, **more: Any) -> str:
        return self.order("start", revision=self.revision(), pull=pull, operator=None, **more)

    def revision(self) -> int:
        """The number of the setup as it stands now."""
        self.server.revisions.append(self.server.setup.as_recorded)
        return len(self.server.revisions)

    def _give_up(self, key: str) -> None:
        """Whoever gave the order no longer waits for it."""
        order = self.server.orders[key]
        if self.server.takes_writes and not self.server.is_locked(f"order {key}"):
            if order.state in (OrderState.WAITING, OrderState.CLAIMED):
                order.state = OrderState.REFUSED
                order.answer = {"title": "Nobody took the order in time."}
        elif order.state in (OrderState.WAITING, OrderState.CLAIMED):
            self.scheduler.later(0.5, lambda: self._give_up(key))

    def stop(
        self, *, emergency: bool = False, run: int | None = None, life_s: float = LIFE_S
    ) -> str:
        """A notice at once; the row where the database takes one."""
        key = str(uuid.UUID(int=next(self.count) + (1 << 65)))
        why = "Emergency stop" if emergency else "Stopped by hand"
        stop = StopRequested(key, emergency, self.server.utc(), "somebody", why, run)
        if not self.server.away:
            self.being_told.add(key)
            self._tell_stop(stop, self.clock.now + life_s)
        return key

    def _tell_stop(self, stop: StopRequested, until: float) -> None:
        """Until it is confirmed, or whoever gave it has been told that nobody confirms it."""
        if not self.server.hanging:
            self.server.notify("stops", stop)
            if self.process and self.process.hears_stops:
                self.told_at.setdefault(stop.key, self.clock.now)
        if self.server.takes_writes and not self.server.is_locked("stops"):
            self.server.stops.setdefault(stop.key, StopRow(stop))
        row = self.server.stops.get(stop.key)
        if self.clock.now < until and not (row and row.confirmed):
            self.scheduler.later(TELL_AGAIN, lambda: self._tell_stop(stop, until))
        else:
            self.being_told.discard(stop.key)

    def emergency(self) -> str:
        return self.stop(emergency=True)

    # Time

    def force_at(self, time: float) -> float:
        if self.force is not None:
            return self.force
        return self.frame.force_at(time)

    def run(self, seconds: float) -> None:
        """Let time pass; the actuator's own moves with it."""
        until = self.clock.now + seconds
        while self.clock.now < until - 1e-9:
            self.scheduler.run_until(min(until, self.clock.now + STEP))
            for actuator in self.actuators.values():
                actuator.advance()
