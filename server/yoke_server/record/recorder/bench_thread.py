"""The thread of one bench; it and the device ports call the runner one at a time.

A block is worked through by the thread that read it, while it is still warm there: no other
thread is woken for it. Whoever has the turn takes all events in the order in which they came.
"""

import logging
import queue
import socket
import threading
import time
import uuid
from collections import deque
from contextlib import suppress
from functools import partial

from yoke_server.bench.drivers import registry
from yoke_server.bench.stops import StopRequested
from yoke_server.record.recorder.control.parts import Parts
from yoke_server.record.recorder.display.publisher import LivePublisher
from yoke_server.record.recorder.model.clock import Clock
from yoke_server.record.recorder.model.events import (
    ActuatorState,
    Address,
    Arrived,
    ClockRead,
    Event,
)
from yoke_server.record.recorder.orders.life_sign import LifeSign
from yoke_server.record.recorder.orders.listener import OrderListener
from yoke_server.record.recorder.orders.part_thread import PartThread
from yoke_server.record.recorder.orders.stop_listener import StopListener
from yoke_server.record.recorder.ports.actuator_port import ActuatorPort
from yoke_server.record.recorder.ports.device_port import DevicePort
from yoke_server.record.recorder.runner import BenchRecorder
from yoke_server.record.recorder.storage.bench_database import BenchDatabase
from yoke_server.record.recorder.storage.postgres.orders import PostgresOrders
from yoke_server.record.recorder.storage.postgres.samples import PostgresStore
from yoke_server.record.recorder.storage.postgres.stops import PostgresSigns, PostgresStops
from yoke_server.record.recorder.storage.writer import Writer, WriterThread
from yoke_server.record.recorder.stream.ring import MemoryBudget
from yoke_server.record.space import free_space

log = logging.getLogger(__name__)

TICK = 0.2  # s; so often what is due by time is looked at, by a port that has the turn anyway
PATIENCE = 0.3  # s without one that has, until the bench's own thread does
SPACE_EVERY = 5.0  # s
UNHURRIED = (ClockRead, ActuatorState)  # these wait for the next block, or tick
WRITE_OUT = 45.0  # s that the writer may take at the end; the supervisor gives a minute


class BenchThread(threading.Thread):
    """Waits until the bench is this recorder's, serves it, and writes everything out at the end."""

    def __init__(self, bench_id: int, clock: Clock, queue_bytes: int, budget: MemoryBudget) -> None:
        super().__init__(name=f"bench-{bench_id}", daemon=True)
        self._clock = clock
        self._inbox: deque[Event] = deque()
        self._rung: queue.SimpleQueue[None] = queue.SimpleQueue()  # something waits in the inbox
        self._turn = threading.Lock()
        self._left = False
        self._tick_due = 0.0
        self._fault: Exception | None = None  # of ours, in a port's turn
        self._ending = threading.Event()
        holder = f"{socket.gethostname()[:40]} {uuid.uuid4()}"
        database = BenchDatabase(PostgresStore(bench_id), holder)
        self._writer = Writer(database, clock, self._emit, queue_bytes)
        self._writing = WriterThread(self._writer, database)
        orders = PostgresOrders(bench_id)
        self._listener = OrderListener(orders, holder, bench_id, clock, self._emit)
        self._ordering = PartThread("orders", self._listener)
        self._stops = StopListener(
            PostgresStops(bench_id), clock, self._hear_stop, self._hear_latch
        )
        self._stopping = PartThread("stops", self._stops)
        self._life = LifeSign(PostgresSigns(bench_id), holder, clock, self._emit)
        self._signing = PartThread("life sign", self._life)
        self._publisher = LivePublisher(bench_id)
        self._host = f"the recorder on {socket.gethostname()}"
        self._space_due = 0.0
        self._space: int | None = None
        parts = Parts(
            clock,
            self._writer,
            self._listener,
            self._stops,
            self._life,
            self._publisher,
            self._make_port,
            self._make_actuator,
            self._free_bytes,
            budget,
        )
        self._recorder = BenchRecorder(parts)

    def ask_to_end(self) -> None:
        """An open run stays open and is taken up by the next process."""
        self._ending.set()

    def run(self) -> None:
        self._writing.start()
        while not self._writer.holding.wait(TICK):
            if self._ending.is_set() or self._writing.fault:
                self._writing.finish(0)
                return
        self._stopping.start()
        self._signing.start()
        self._publisher.start()
        try:
            self._hear_stops_first()
            self._ordering.start()
            self._serve()
        finally:  # whatever ended the loop, a successor must find everything written
            with self._turn:
                self._left = True
                self._recorder.leave()
            for helper in (self._ordering, self._stopping, self._signing):
                if helper.is_alive():
                    helper.finish()
            self._publisher.finish()
            if not self._writing.finish(0 if self._recorder.taken else WRITE_OUT):
                log.error("The database did not take everything; the device still keeps a minute.")

    def _hear_stops_first(self) -> None:
        """Load the stops in force before any order is accepted."""
        while not self._stops.listening.wait(TICK) and not self._ending.is_set():
            pass

    def _serve(self) -> None:
        while not self._ending.is_set() and not self._recorder.taken:
            self._take_turn(rung=self._wait())
            if fault := self._fault or self._writing.fault:
                raise fault

    def _wait(self) -> bool:
        """Wait until it is woken or the time is over; True if it was woken."""
        rung = False
        with suppress(queue.Empty):
            self._rung.get(timeout=PATIENCE)
            rung = True
            while True:
                self._rung.get_nowait()
        return rung

    def _emit(self, event: Event) -> None:
        """From any thread, also from within the runner."""
        self._inbox.append(event)
        if not isinstance(event, UNHURRIED):
            self._rung.put(None)

    def _hear_stop(self, stop: StopRequested) -> None:
        """Called in the stop listener's thread: stop all actuators first, then end the run."""
        self._recorder.stop_now(stop)
        self._inbox.appendleft(stop)
        self._rung.put(None)

    def _hear_latch(self, stop: StopRequested) -> None:
        """An emergency stop that an earlier recorder has carried out is still in force."""
        self._recorder.stop_now(stop)

    def _deliver(self, block: Arrived) -> None:
        """From a port's reading thread, which works the block through."""
        self._inbox.append(block)
        try:
            self._take_turn()
        except Exception as fault:  # ours, not the device's: it ends the bench's own thread
            self._fault = fault
            self._rung.put(None)

    def _take_turn(self, *, rung: bool = False) -> None:
        """Take all events; and look at what is due by time if that was not done just before."""
        with self._turn:
            while self._inbox and self._serves:
                self._recorder.handle(self._inbox.popleft())
            now = time.monotonic()
            if self._serves and (rung or now >= self._tick_due):
                self._tick_due = now + TICK
                self._recorder.tick()

    @property
    def _serves(self) -> bool:
        return not (self._left or self._recorder.taken)

    def _make_port(self, label: str, address: Address) -> DevicePort | None:
        if address.driver not in registry.ACQUIRING:
            return None
        make = partial(registry.acquiring, address.driver, address.host, address.port)
        return DevicePort(label, self._host, make, self._clock, self._emit, self._deliver)

    def _make_actuator(self, label: str, address: Address) -> ActuatorPort | None:
        if address.driver not in registry.MOVING:
            return None
        make = partial(registry.moving, address.driver, address.host, address.port)
        return ActuatorPort(label, self._host, make, self._clock, self._emit)

    def _free_bytes(self) -> int | None:
        now = self._clock.monotonic()
        if now >= self._space_due:
            self._space_due = now + SPACE_EVERY
            self._space = free_space()
        return self._space
