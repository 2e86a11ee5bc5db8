"""One bench served: the runner's thread, and the parts it works with."""

import logging
import queue
import socket
import threading
from contextlib import suppress
from functools import partial

from yoke_server.bench.drivers import registry
from yoke_server.record.recorder.actuator_port import ActuatorPort
from yoke_server.record.recorder.clock import Clock
from yoke_server.record.recorder.database import BenchDatabase
from yoke_server.record.recorder.desk import Desk
from yoke_server.record.recorder.events import Address, Arrived, Event
from yoke_server.record.recorder.parts import Parts
from yoke_server.record.recorder.port import DevicePort
from yoke_server.record.recorder.runner import BenchRecorder
from yoke_server.record.recorder.show import Show
from yoke_server.record.recorder.writer import Writer, WriterThread
from yoke_server.record.space import free_space

log = logging.getLogger(__name__)

TURN = 0.05  # s that nothing may come before time alone is looked at
TICK = 0.1  # s of the clock; so often at most between samples
SPACE_EVERY = 5.0  # s
WRITE_OUT = 45.0  # s that the writer may take at the end; the supervisor gives a minute


class BenchThread(threading.Thread):
    """Waits until the bench is this recorder's, serves it, and writes everything out at the end."""

    def __init__(self, bench_id: int, clock: Clock, queue_bytes: int) -> None:
        super().__init__(name=f"bench-{bench_id}", daemon=True)
        self._clock = clock
        self._inbox: queue.SimpleQueue[Event] = queue.SimpleQueue()
        self._ending = threading.Event()
        database = BenchDatabase(bench_id)
        self._writer = Writer(database, clock, self._inbox.put, queue_bytes)
        self._writing = WriterThread(self._writer, database)
        self._desk = Desk(bench_id, clock, self._inbox.put)
        self._show = Show(bench_id)
        self._host = f"the recorder on {socket.gethostname()}"
        self._space_due = 0.0
        self._space: int | None = None
        parts = Parts(
            clock, self._writer, self._desk, self._show, self._make_port, self._make_actuator,
            self._free_bytes,
        )  # fmt: skip
        self._recorder = BenchRecorder(parts)

    def ask_to_end(self) -> None:
        """An open run stays open and is taken up by the next process."""
        self._ending.set()

    def run(self) -> None:
        self._writing.start()
        while not self._writer.holding.wait(TURN):
            if self._ending.is_set():
                self._writing.finish(0)
                return
        self._desk.start()
        self._show.start()
        try:
            self._serve()
        finally:  # whatever ended the loop, a successor must find everything written
            self._recorder.leave()
            self._desk.finish()
            self._show.finish()
            if not self._writing.finish(0 if self._recorder.taken else WRITE_OUT):
                log.error("The database did not take everything; the device still keeps a minute.")

    def _serve(self) -> None:
        due = 0.0
        while not self._ending.is_set() and not self._recorder.taken:
            event: Event | None = None
            with suppress(queue.Empty):
                event = self._inbox.get(timeout=TURN)
                self._recorder.handle(event)
            # Samples come by themselves; what else happens may have made something due.
            if self._clock.monotonic() >= due or not isinstance(event, Arrived):
                self._recorder.tick()
                due = self._clock.monotonic() + TICK

    def _make_port(self, label: str, address: Address) -> DevicePort | None:
        if address.driver not in registry.ACQUIRING:
            return None
        make = partial(registry.acquiring, address.driver, address.host, address.port)
        return DevicePort(label, self._host, make, self._clock, self._inbox.put)

    def _make_actuator(self, label: str, address: Address) -> ActuatorPort | None:
        if address.driver not in registry.MOVING:
            return None
        make = partial(registry.moving, address.driver, address.host, address.port)
        return ActuatorPort(self._host, make, self._clock, self._inbox.put)

    def _free_bytes(self) -> int | None:
        now = self._clock.monotonic()
        if now >= self._space_due:
            self._space_due = now + SPACE_EVERY
            self._space = free_space()
        return self._space
