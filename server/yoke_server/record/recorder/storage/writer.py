"""The writer: everything that a run adds to the database, in order, beside all else.

A commit that stalls costs only queue, counted in bytes. What the database will take later is
tried again for ever; what it never will is told, and nothing waits behind it. Every write may
be repeated: after a lost connection it is not known what arrived.

`Writer.step` does one thing at a time and never waits; `WriterThread` turns it.
"""

import logging
import threading
from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Protocol

import psycopg
from django.db import Error

from yoke_server.record.models import RunState
from yoke_server.record.recorder.control.recording import Closed
from yoke_server.record.recorder.model.clock import Clock
from yoke_server.record.recorder.model.events import BenchTaken, Event, NotBegun, WriteRefused
from yoke_server.record.recorder.storage.runs import Plan
from yoke_server.record.store import Samples, will_pass

log = logging.getLogger(__name__)

QUEUE_BYTES = 512 << 20
BATCH_BYTES = 16 << 20
KEEP_SECONDS = 3.0  # committed samples are kept so long: then they are on the disk
RETRY = 0.5  # s
LET_GO = 10.0  # s in which the server notices a broken connection


@dataclass(frozen=True, slots=True)
class Begin:
    plan: Plan


@dataclass(frozen=True, slots=True)
class Close:
    run_id: int
    state: RunState
    why: str
    streams: list[Closed]


Work = Samples | Begin | Close


class Database(Protocol):
    """What the writer does to the database; all of it may be repeated.

    Raises Error (Django's or the driver's) where it is not done, or nobody knows.
    """

    def connect(self) -> bool: ...  # False: another recorder holds the bench
    def disconnect(self) -> None: ...
    def leave(self) -> None: ...
    def write(self, work: Sequence[Samples]) -> None: ...
    def write_again(self, work: Sequence[Samples]) -> None: ...
    def begin(self, plan: Plan) -> Event: ...
    def close(self, work: Close) -> None: ...


class Writer:
    """Takes work in order; ``emit`` gets what became of it."""

    def __init__(
        self,
        database: Database,
        clock: Clock,
        emit: Callable[[Event], None],
        most_bytes: int = QUEUE_BYTES,
    ) -> None:
        self._database = database
        self._clock = clock
        self._emit = emit
        self._most_bytes = most_bytes
        self.wake = threading.Condition()
        self._queue: deque[Work] = deque()
        self._in_hand: list[Samples] | Begin | Close | None = None
        self._taken_out = (0, 0)  # stretches and bytes in hand
        self._again = False  # the work in hand may have been done already
        self._one_by_one = False  # something in it is refused: each stretch by itself
        self._bytes = 0  # waiting or being written
        self._arrived: deque[float] = deque()  # of those samples, in order
        self._recent: deque[tuple[float, Samples]] = deque()
        self._connected = False
        self._held_once = False
        self._lost_at = 0.0
        self._refused_runs: set[int] = set()
        self.holding = threading.Event()  # the bench is this recorder's
        self.taken = False  # by another recorder
        self.trouble = ""

    # From the runner's thread

    def put(self, work: Work) -> None:
        with self.wake:
            if isinstance(work, Samples):
                self._bytes += work.nbytes
                self._arrived.append(work.arrived)
            self._queue.append(work)
            self.wake.notify()

    @property
    def room_bytes(self) -> int:
        return max(0, self._most_bytes - self._bytes)

    @property
    def full(self) -> bool:
        return self._bytes > self._most_bytes

    @property
    def idle(self) -> bool:
        return self._in_hand is None and not self._queue

    @property
    def backlog_s(self) -> float:
        """Age of the oldest sample that is not yet in the database."""
        with self.wake:
            oldest = self._arrived[0] if self._arrived else None
        return 0.0 if oldest is None else self._clock.monotonic() - oldest

    # From whoever turns it

    def step(self) -> bool:
        """Do what is next, once; False if it could not be done and should wait a moment."""
        if self._in_hand is None:
            self._in_hand = self._next()
        try:
            if not self._connected and not self._connect():
                return False
            if self._in_hand is not None:
                self._do(self._in_hand)
        except (Error, psycopg.Error) as error:  # COPY raises the driver's own
            return self._failed(error)
        self.trouble = ""
        self._finished()
        return True

    def _next(self) -> "list[Samples] | Begin | Close | None":
        """The next deed, or all the samples that wait before it."""
        with self.wake:
            if not self._queue:
                return None
            first = self._queue.popleft()
            if not isinstance(first, Samples):
                return first
            batch, nbytes = [first], first.nbytes
            while self._queue and isinstance(self._queue[0], Samples) and nbytes < BATCH_BYTES:
                batch.append(self._queue.popleft())  # type: ignore[arg-type]
                nbytes += batch[-1].nbytes
            self._taken_out = (len(batch), nbytes)
            return batch

    def _connect(self) -> bool:
        """A fresh connection; what a crash of the server may have taken is written again."""
        if not self._database.connect():
            self._not_ours()
            return False
        self._held_once = self._connected = True
        self._lost_at = 0.0
        self.holding.set()
        return self._write_recent_again()

    def _write_recent_again(self) -> bool:
        """False if something among it is refused for good, as it must have been before."""
        try:
            if recent := [work for _, work in self._recent]:
                self._database.write_again(recent)
        except (Error, psycopg.Error) as error:
            if will_pass(error):
                raise
            log.exception("Not written again")
            self._recent.clear()
            self._database.disconnect()
            self._connected = False
        return self._connected

    def _not_ours(self) -> None:
        """Another recorder has the bench, or the server has not yet noticed that ours broke."""
        if not self._held_once:
            if not self.trouble:
                log.warning("Another recorder serves this bench; this one waits for it.")
            self.trouble = "Another recorder serves this bench."
            return
        now = self._clock.monotonic()
        self._lost_at = self._lost_at or now
        if now - self._lost_at > LET_GO and not self.taken:
            self.taken = True
            self._emit(BenchTaken())

    def _do(self, work: "list[Samples] | Begin | Close") -> None:
        if isinstance(work, Begin):
            self._emit(self._database.begin(work.plan))
        elif isinstance(work, Close):
            self._database.close(work)
        elif self._one_by_one:
            self._write_alone(work)
        elif self._again:
            self._database.write_again(work)
        else:
            self._database.write(work)

    def _write_alone(self, work: list[Samples]) -> None:
        """One stretch that is refused for good must not take its neighbours along."""
        for stretch in list(work):
            try:
                self._database.write_again([stretch])
            except (Error, psycopg.Error) as error:
                if will_pass(error):
                    raise
                self._refused(stretch.run_id, error)
                work.remove(stretch)

    def _refused(self, run_id: int, error: Exception) -> None:
        why = str(error).split("\n")[0]
        log.error("The database refuses for good: %s", why)
        if run_id not in self._refused_runs:
            self._refused_runs.add(run_id)
            self._emit(WriteRefused(run_id, why))

    def _failed(self, error: Exception) -> bool:
        work, self._again = self._in_hand, True
        self._database.disconnect()
        self._connected = False
        if will_pass(error):
            self.trouble = str(error).split("\n")[0]
            log.warning("The database takes nothing: %s", self.trouble)
            return False
        if isinstance(work, list):
            self._one_by_one = True
            return True
        if isinstance(work, Close):
            self._refused(work.run_id, error)
        elif work is not None:
            self._emit(NotBegun(work.plan.order_key, f"The database refuses the run: {error}"))
        self._finished()
        return True

    def _finished(self) -> None:
        work, self._in_hand = self._in_hand, None
        self._again = self._one_by_one = False
        if not isinstance(work, list):
            return
        now = self._clock.monotonic()
        stretches, nbytes = self._taken_out
        with self.wake:
            self._bytes -= nbytes
            for _ in range(stretches):
                self._arrived.popleft()
        self._recent.extend((now, w) for w in work)
        while self._recent and self._recent[0][0] < now - KEEP_SECONDS:
            self._recent.popleft()


class WriterThread(threading.Thread):
    """Turns a writer until it is asked to end and has written everything."""

    def __init__(self, writer: Writer, database: Database) -> None:
        super().__init__(name="writer", daemon=True)
        self._writer = writer
        self._database = database
        self._last = threading.Event()  # no more work comes
        self._now = threading.Event()  # end, whatever is left
        self.fault: Exception | None = None  # of ours: it ended the thread

    def finish(self, seconds: float) -> bool:
        """Write what is queued, then end; False if that takes longer than ``seconds``."""
        self._last.set()
        with self._writer.wake:
            self._writer.wake.notify()
        self.join(timeout=seconds)
        self._now.set()
        return not self.is_alive()

    def run(self) -> None:
        try:
            self._write()
        except Exception as fault:
            log.exception("The writer ends.")
            self.fault = fault
        finally:
            self._database.leave()

    def _write(self) -> None:
        writer = self._writer
        while not self._now.is_set() and not (self._last.is_set() and writer.idle):
            if not writer.step():
                self._now.wait(RETRY)
                continue
            with writer.wake:
                if writer.idle and not self._last.is_set():
                    writer.wake.wait(RETRY)
