"""A simulated bench whose time passes in steps, as quickly as the computer gets them done.

What the demo's first runs are recorded on: the recorder's own parts and drivers, turned one
after the other by one thread on a virtual clock, and a rig that lets the time of a block pass
when it is told to. So they are the same on every computer, however busy it is.
"""

import json
import subprocess
import sys
import time
from collections import deque
from collections.abc import Callable, Iterator
from datetime import UTC, datetime
from functools import partial

from yoke_server.bench.drivers import registry
from yoke_server.bench.drivers.base import DriverError, SampleBlock
from yoke_server.bench.models import Bench
from yoke_server.bench.services import save_stand_ins
from yoke_server.live.protocol import BenchState
from yoke_server.record.recorder.control.parts import Parts
from yoke_server.record.recorder.model.events import Address, Arrived, Event
from yoke_server.record.recorder.orders.life_sign import WRITE_EVERY, LifeSign
from yoke_server.record.recorder.orders.listener import OrderListener
from yoke_server.record.recorder.ports.actuator_port import ActuatorPort
from yoke_server.record.recorder.ports.device_port import POLL, DeviceAction, DevicePort
from yoke_server.record.recorder.runner import BenchRecorder
from yoke_server.record.recorder.storage.bench_database import BenchDatabase
from yoke_server.record.recorder.storage.postgres.orders import PostgresOrders
from yoke_server.record.recorder.storage.postgres.samples import PostgresStore
from yoke_server.record.recorder.storage.postgres.stops import PostgresSigns
from yoke_server.record.recorder.storage.writer import Writer

STEP = 0.1  # s; the time of a block
HOST = "the demo's recorder"
ALIVE = 10.0  # s of the wall's, after which a recorder that was killed counts as dead
QUEUE_BYTES = 64 << 20
MAX_WAIT = 300.0  # s of the bench that anything is waited for


class SteppedRig:
    """The rig of one bench as a process of its own; it ends with this one."""

    def __init__(self, bench: str) -> None:
        command = [sys.executable, "-m", "yoke_rig", "--stepped", "--benches", bench]
        self.process = subprocess.Popen(
            [*command, "--seed", "1"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
        )
        self.ports: dict[str, int] = json.loads(self._hear())

    def step(self) -> None:
        assert self.process.stdin is not None
        print(file=self.process.stdin, flush=True)
        self._hear()

    def close(self) -> None:
        assert self.process.stdin is not None
        self.process.stdin.close()
        self.process.wait(10)

    def _hear(self) -> str:
        assert self.process.stdout is not None
        if line := self.process.stdout.readline():
            return line
        raise DriverError("The demo's rig has ended.")


class SteppedClock:
    """Stands still between two steps; begins at the wall's time."""

    speed = 1.0

    def __init__(self) -> None:
        self.began = datetime.now(UTC)
        self.passed = 0.0

    def monotonic(self) -> float:
        return self.passed

    def bench_ns(self) -> int:
        return round((self.began.timestamp() + self.passed) * 1e9)

    def utc(self) -> datetime:
        return datetime.now(UTC)


class SteppedPort(DevicePort):
    """One block is read at each step; orders are carried out at once."""

    _blocks: Iterator[SampleBlock]
    _read_at = 0.0

    def start(self) -> None:
        self._driver = self._make()
        self._link(self._driver)
        self._blocks = self._driver.blocks()

    def step(self) -> None:
        if self._driver is None:
            return
        self._deliver(Arrived(self.label, next(self._blocks)))
        if self._clock.monotonic() - self._read_at >= POLL:
            self._read_at = self._clock.monotonic()
            self._emit(self._poll(self._driver))

    def _order(self, action: DeviceAction, failed: Callable[[str], Event | None]) -> None:
        assert self._driver is not None
        if event := action(self._driver):
            self._emit(event)


class SteppedActuatorPort(ActuatorPort):
    """Looks at each step."""

    def start(self) -> None: ...
    def finish(self) -> None:
        self._ending = True
        self.step()


class StatePublisher:
    """Keeps the bench's state, which a start is judged by; nobody sees frames."""

    def __init__(self, bench_id: int) -> None:
        self._bench_id = bench_id

    def frame(self, payload: bytes) -> None: ...
    def news(self, kind: str) -> None: ...
    def state(self, state: BenchState) -> None:
        Bench.objects.filter(pk=self._bench_id).update(
            state=state.model_dump(mode="json"), state_at=datetime.now(UTC)
        )


class NobodyStops:
    """There is nobody who could give a stop while the demo is loaded."""

    is_listening = True
    heard_at = float("inf")

    def confirm(self, key: str, problem: str) -> None: ...


class DemoBench:
    """A bench, its rig and its recorder; time passes by `step`, or while something is awaited."""

    def __init__(self, bench_id: int, rig: SteppedRig) -> None:
        self._rig = rig
        self._clock = clock = SteppedClock()
        self._inbox: deque[Event] = deque()
        self._ports: list[SteppedPort] = []
        self._actuators: list[SteppedActuatorPort] = []
        emit = self._inbox.append
        save_stand_ins(rig.ports)
        self._database = BenchDatabase(PostgresStore(bench_id), HOST)
        self._writer = Writer(self._database, clock, emit, QUEUE_BYTES)
        self._listener = OrderListener(PostgresOrders(bench_id), HOST, bench_id, clock, emit)
        self._life = LifeSign(PostgresSigns(bench_id), HOST, clock, emit)
        self._recorder = BenchRecorder(
            Parts(
                clock,
                self._writer,
                self._listener,
                NobodyStops(),
                self._life,
                StatePublisher(bench_id),
                self._make_port,
                self._make_actuator,
                lambda: None,
            )
        )

    def step(self) -> None:
        """Advance the clock by one block and let all parts do their work."""
        self._rig.step()
        self._clock.passed += STEP
        for port in self._ports:
            port.step()
        for actuator in self._actuators:
            actuator.step()
        self._take_turn()
        self._write()
        self._hear()
        self._take_turn()

    def wait_for(self, condition: Callable[[], bool], what: str) -> None:
        """Let time pass until something holds. Raises TimeoutError if it takes too long."""
        until = self._clock.passed + MAX_WAIT
        while not condition():
            if self._clock.passed > until:
                raise TimeoutError(f"Waited too long for {what}.")
            self.step()

    def close(self) -> None:
        """Finish writing, stop the actuator and release the bench."""
        self._recorder.leave()
        self._write()
        for actuator in self._actuators:
            actuator.finish()
        for port in self._ports:
            port.finish()
        self._database.leave()
        self._rig.close()

    def _take_turn(self) -> None:
        while self._inbox:
            self._recorder.handle(self._inbox.popleft())
        self._recorder.tick()

    def _write(self) -> None:
        """Until nothing waits. A recorder that was killed just now counts as alive for a while."""
        until = time.monotonic() + ALIVE
        while not self._writer.step():
            if time.monotonic() > until:
                raise DriverError("Another recorder serves the demo's bench, or no database does.")
            time.sleep(0.2)
        while not self._writer.idle:
            self._writer.step()

    def _hear(self) -> None:
        """Orders; and that the database can be written to."""
        heard = self._listener.step()
        if self._clock.passed - self._life.written_at >= WRITE_EVERY:
            heard = heard and self._life.step()
        if not heard:
            raise DriverError("The database does not answer.")
        self._listener.rest(0)

    def _deliver(self, block: Arrived) -> None:
        self._inbox.append(block)
        self._take_turn()

    def _make_port(self, label: str, address: Address) -> DevicePort | None:
        if address.driver not in registry.ACQUIRING:
            return None
        make = partial(registry.acquiring, address.driver, address.host, address.port)
        port = SteppedPort(label, HOST, make, self._clock, self._inbox.append, self._deliver)
        self._ports.append(port)
        return port

    def _make_actuator(self, label: str, address: Address) -> ActuatorPort | None:
        if address.driver not in registry.MOVING:
            return None
        make = partial(registry.moving, address.driver, address.host, address.port)
        port = SteppedActuatorPort(label, HOST, make, self._clock, self._inbox.append)
        self._actuators.append(port)
        return port
