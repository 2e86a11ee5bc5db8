"""The writer thread: everything that a run adds to the database, in order.

A commit that stalls costs only queue, counted in bytes. What the database will take later is
tried again for ever; what it never will is told, and nothing waits behind it. Every write may
be repeated: after a lost connection it is not known what arrived. Rows are forgotten once the
server has flushed them to its disk, not before: a crash takes what it had not.

`Writer.step` does one thing at a time and never waits; `WriterThread` turns it.
"""

import logging
import threading
from collections import deque
from collections.abc import Callable, Sequence
from typing import Protocol

import psycopg
from django.db import Error

from yoke_server.record.recorder.model.clock import Clock
from yoke_server.record.recorder.model.events import (
    Began,
    BenchLocked,
    Event,
    NotBegun,
    RunClosed,
    WriteRefused,
)
from yoke_server.record.recorder.storage.bench_database import Hold
from yoke_server.record.recorder.storage.work import Begin, Close, Mark, Plan, Work
from yoke_server.record.store import RowsMissing, Samples, will_pass

log = logging.getLogger(__name__)

QUEUE_BYTES = 512 << 20
BATCH_BYTES = 16 << 20
KEEP_SECONDS = 3.0  # that written rows wait for the server's own flush; then it is asked for
LOOK_EVERY = 1.0  # s between questions how far it has flushed
RETRY = 0.5  # s
DATABASE_ERRORS = (Error, psycopg.Error)  # COPY raises the driver's own


class Database(Protocol):
    """What the writer does to the database; all of it may be repeated.

    Raises Error (Django's or the driver's) where it is not done, or nobody knows.
    """

    def connect(self) -> Hold: ...
    def disconnect(self) -> None: ...
    def leave(self) -> None: ...
    def write(self, rows: Sequence[Samples]) -> None: ...
    def log_positions(self) -> tuple[int, int]: ...
    def put_on_disk(self) -> None: ...
    def begin(self, plan: Plan) -> Began | NotBegun: ...
    def close(self, work: Close) -> None: ...
    def mark(self, work: Mark) -> None: ...


class WrittenRows:
    """Rows that are committed, and not yet known to be on the server's disk."""

    def __init__(self) -> None:
        self._rows: deque[tuple[int, float, Samples]] = deque()  # log position, time, row
        self._looked_at = 0.0

    @property
    def rows(self) -> list[Samples]:
        return [row for _, _, row in self._rows]

    def add_rows(self, rows: Sequence[Samples], position: int, now: float) -> None:
        """``position``: bytes of the server's log, with these rows in it."""
        self._rows.extend((position, now, row) for row in rows)

    def restamp(self, position: int) -> None:
        """All were written again: a server that crashed counts on from where it had flushed."""
        self._rows = deque((position, at, row) for _, at, row in self._rows)

    def due(self, now: float) -> bool:
        """Whether the server is to be asked how far it has flushed."""
        return bool(self._rows) and now - self._looked_at >= LOOK_EVERY

    def forget(self, flushed: int, now: float) -> None:
        """The server has flushed its log up to here."""
        self._looked_at = now
        while self._rows and self._rows[0][0] <= flushed:
            self._rows.popleft()

    def waits_long(self, now: float) -> bool:
        return bool(self._rows) and now - self._rows[0][1] > KEEP_SECONDS

    def clear(self) -> None:
        self._rows.clear()


class Writer:
    """Takes work in order; ``emit`` gets what became of it."""

    def __init__(
        self,
        database: Database,
        clock: Clock,
        emit: Callable[[Event], None],
        max_bytes: int = QUEUE_BYTES,
    ) -> None:
        self._database = database
        self._clock = clock
        self._emit = emit
        self._max_bytes = max_bytes
        self.wake = threading.Condition()
        self._queue: deque[Work] = deque()
        self._in_hand: list[Samples] | Begin | Close | Mark | None = None
        self._taken_out = (0, 0)  # rows and bytes in hand
        self._one_by_one = False  # something in it is refused: each row by itself
        self._bytes = 0  # waiting or being written
        self._arrived: deque[float] = deque()  # of those samples, in order
        self._written = WrittenRows()
        self._connected = False
        self._held_once = False
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
        return max(0, self._max_bytes - self._bytes)

    @property
    def keeps_up(self) -> bool:
        """Whether less waits than half of what may."""
        return 2 * self._bytes < self._max_bytes

    @property
    def full(self) -> bool:
        return self._bytes > self._max_bytes

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
        except RowsMissing as error:
            return self._refuse(error)
        except DATABASE_ERRORS as error:
            return self._failed(error)
        self.trouble = ""
        self._finished()
        return self._forget_what_is_on_disk()

    def _next(self) -> "list[Samples] | Begin | Close | Mark | None":
        """What to do next: all the samples that wait before it are one thing."""
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
        hold = self._database.connect()
        if hold is not Hold.OURS:
            self._not_ours(hold)
            return False
        self._held_once = self._connected = True
        self._write_again()
        self.holding.set()
        return True

    def _write_again(self) -> None:
        """What is refused for good now must have been before: nothing else waits for it."""
        if not self._written.rows:
            return
        try:
            self._database.write(self._written.rows)
            self._written.restamp(self._database.log_positions()[0])
        except (*DATABASE_ERRORS, RowsMissing) as error:
            if not isinstance(error, RowsMissing) and will_pass(error):
                raise
            log.exception("Not written again")
            for run_id in {row.run_id for row in self._written.rows if not row.computed}:
                self._tell_refused(run_id, error)
            self._written.clear()
            raise psycopg.OperationalError("The connection begins anew.") from error

    def _not_ours(self, hold: Hold) -> None:
        if hold is Hold.FREED:
            return
        if self._held_once and not self.taken:
            self.taken = True
            self._emit(BenchLocked())
        elif not self.trouble:
            log.warning("Another recorder serves this bench; this one waits for it.")
        self.trouble = "Another recorder serves this bench."

    def _do(self, work: "list[Samples] | Begin | Close | Mark") -> None:
        if isinstance(work, Begin):
            self._emit(self._database.begin(work.plan))
        elif isinstance(work, Close):
            self._database.close(work)
            self._emit(RunClosed(work.run_id))
        elif isinstance(work, Mark):
            self._database.mark(work)
        elif self._one_by_one:
            self._write_alone(work)
            self._keep_until_flushed(work)
        else:
            self._database.write(work)
            self._keep_until_flushed(work)

    def _keep_until_flushed(self, rows: list[Samples]) -> None:
        position, _ = self._database.log_positions()
        self._written.add_rows(rows, position, self._clock.monotonic())

    def _forget_what_is_on_disk(self) -> bool:
        """False if the database could not be asked."""
        if not self._written.due(now := self._clock.monotonic()):
            return True
        try:
            if self._written.waits_long(now):
                self._database.put_on_disk()  # whoever should have flushed it is held up
            _, flushed = self._database.log_positions()
        except DATABASE_ERRORS as error:
            self._lose(error)
            return False
        self._written.forget(flushed, now)
        return True

    def _write_alone(self, rows: list[Samples]) -> None:
        """One row that is refused for good must not take its neighbours along."""
        for row in list(rows):
            try:
                self._database.write([row])
            except (*DATABASE_ERRORS, RowsMissing) as error:
                if not isinstance(error, RowsMissing) and will_pass(error):
                    raise
                if row.computed:
                    log.warning("A computed row is not stored: %s", error)
                else:
                    self._tell_refused(row.run_id, error)
                rows.remove(row)

    def _tell_refused(self, run_id: int, error: Exception) -> None:
        why = str(error).split("\n")[0]
        log.error("The database refuses for good: %s", why)
        if run_id not in self._refused_runs:
            self._refused_runs.add(run_id)
            self._emit(WriteRefused(run_id, why))

    def _failed(self, error: Exception) -> bool:
        self._lose(error)
        return False if will_pass(error) else self._refuse(error)

    def _lose(self, error: Exception) -> None:
        self._database.disconnect()
        self._connected = False
        self.trouble = str(error).split("\n")[0]
        log.warning("The database takes nothing: %s", self.trouble)

    def _refuse(self, error: Exception) -> bool:
        """What is in hand will never be taken: it is told, and the next is done."""
        work, why = self._in_hand, str(error).split("\n")[0]
        if isinstance(work, list):
            self._one_by_one = True
            return True
        if isinstance(work, Mark):
            log.error("The database refuses a marker for good: %s", why)
        elif isinstance(work, Close):
            self._emit(RunClosed(work.run_id, why))
        elif work is not None:
            self._emit(NotBegun(work.plan.order_key, f"The database refuses the run: {why}"))
        self._finished()
        return True

    def _finished(self) -> None:
        work, self._in_hand = self._in_hand, None
        self._one_by_one = False
        if not isinstance(work, list):
            return
        rows, nbytes = self._taken_out
        with self.wake:
            self._bytes -= nbytes
            for _ in range(rows):
                self._arrived.popleft()


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
