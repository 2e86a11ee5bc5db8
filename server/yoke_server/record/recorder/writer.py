"""The writer: everything that a run adds to the database, in order, on a thread of its own.

A commit that stalls costs only queue, counted in bytes. What the database will take later is
tried again for ever; what it never will is told, and nothing waits behind it. Every write may
be repeated: after a lost connection it is not known what arrived.
"""

import logging
import threading
from collections import deque
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass

import psycopg
from django.db import Error, connection

from yoke_server.record.recorder.clock import Clock
from yoke_server.record.recorder.events import BenchTaken, Event, WriteRefused
from yoke_server.record.recorder.hold import Hold
from yoke_server.record.store import (
    Samples,
    wait_for_disk,
    will_pass,
    write_again,
    write_samples,
)

log = logging.getLogger(__name__)

QUEUE_BYTES = 512 << 20
BATCH_BYTES = 16 << 20
KEEP_SECONDS = 3.0  # committed samples are kept so long: then they are on the disk
RETRY = 0.5  # s
LET_GO = 10.0  # s in which the server notices a broken connection


@dataclass(frozen=True, slots=True)
class Deed:
    """Something else to write in its turn, safely on the disk; it may be carried out twice.

    What it gives is put out as an event.
    """

    act: Callable[[], Event | None]
    words: str


Work = Samples | Deed


class Writer(threading.Thread):
    """Takes work in order; ``emit`` gets what became of deeds and what is refused for good."""

    def __init__(
        self,
        hold: Hold,
        clock: Clock,
        emit: Callable[[Event], None],
        most_bytes: int = QUEUE_BYTES,
    ) -> None:
        super().__init__(name="writer", daemon=True)
        self._hold = hold
        self._clock = clock
        self._emit = emit
        self._most_bytes = most_bytes
        self._wake = threading.Condition()
        self._queue: deque[Work | None] = deque()
        self._bytes = 0  # waiting or being written
        self._arrived: deque[float] = deque()  # of those samples, in order
        self._recent: deque[tuple[float, Samples]] = deque()
        self._ending = threading.Event()
        self._refused_runs: set[int] = set()
        self.holding = threading.Event()  # the bench is this recorder's
        self.trouble = ""

    # From the runner's thread

    def put(self, work: Work) -> None:
        self._put(work)

    def _put(self, work: Work | None) -> None:
        with self._wake:
            if isinstance(work, Samples):
                self._bytes += work.nbytes
                self._arrived.append(work.arrived)
            self._queue.append(work)
            self._wake.notify()

    @property
    def room_bytes(self) -> int:
        return max(0, self._most_bytes - self._bytes)

    @property
    def full(self) -> bool:
        return self._bytes > self._most_bytes

    @property
    def backlog_s(self) -> float:
        """Age of the oldest sample that is not yet in the database."""
        with self._wake:
            oldest = self._arrived[0] if self._arrived else None
        return 0.0 if oldest is None else self._clock.monotonic() - oldest

    def finish(self, seconds: float) -> bool:
        """Write what is queued, then end; False if that takes longer than ``seconds``."""
        self._put(None)
        self.join(timeout=seconds)
        self._ending.set()
        return not self.is_alive()

    # The thread

    def run(self) -> None:
        self._take_hold()
        while (work := self._next()) is not None:
            self._insist_on(work)
        with suppress(Error, psycopg.Error):
            self._hold.release()
        connection.close()

    def _next(self) -> "list[Samples] | Deed | None":
        """The next deed, or all the samples that wait before it; None at the end."""
        with self._wake:
            while not self._queue:
                if self._ending.is_set():
                    return None
                self._wake.wait(RETRY)
            first = self._queue.popleft()
            if not isinstance(first, Samples):
                return None if self._ending.is_set() else first
            batch, nbytes = [first], first.nbytes
            while self._queue and isinstance(self._queue[0], Samples) and nbytes < BATCH_BYTES:
                batch.append(self._queue.popleft())  # type: ignore[arg-type]
                nbytes += batch[-1].nbytes
            return None if self._ending.is_set() else batch

    def _insist_on(self, work: "list[Samples] | Deed") -> None:
        """Do it, and again each half second while the database cannot."""
        again = False
        while not self._ending.is_set():
            try:
                if connection.connection is None:
                    again = True
                    self._connect_anew()
                self._write(work, again)
            except (Error, psycopg.Error) as error:  # COPY raises the driver's own
                again = True
                if not will_pass(error) and self._refuse(work, error):
                    break
                self._complain(error)
            else:
                self.trouble = ""
                break
        if not isinstance(work, Deed):
            self._count_out(work)

    def _take_hold(self) -> None:
        """Wait for the bench before the first work comes."""
        while not self._ending.is_set():
            try:
                connection.ensure_connection()
                if self._hold.take():
                    wait_for_disk(False)
                    self.holding.set()
                    return
                if not self.trouble:
                    log.warning("Another recorder serves this bench; this one waits for it.")
                self.trouble = "Another recorder serves this bench."
                self._ending.wait(RETRY)
            except (Error, psycopg.Error) as error:
                self._complain(error)

    def _connect_anew(self) -> None:
        """A fresh connection; what a crash of the server may have taken is written again."""
        connection.ensure_connection()
        deadline = self._clock.monotonic() + LET_GO
        while not self._hold.take():  # the server may not have noticed that the old one broke
            if self._clock.monotonic() > deadline or self._ending.wait(RETRY):
                self._emit(BenchTaken())
                self._ending.set()
                return
        wait_for_disk(False)
        if recent := [work for _, work in self._recent]:
            write_again(recent)

    def _write(self, work: "list[Samples] | Deed", again: bool) -> None:
        if isinstance(work, Deed):
            wait_for_disk(True)
            event = work.act()
            wait_for_disk(False)
            if event:
                self._emit(event)
            return
        (write_again if again else write_samples)(work)
        now = self._clock.monotonic()
        self._recent.extend((now, w) for w in work)
        while self._recent and self._recent[0][0] < now - KEEP_SECONDS:
            self._recent.popleft()

    def _refuse(self, work: "list[Samples] | Deed", error: Exception) -> bool:
        """Tell what will never be taken; False to try each stretch by itself first."""
        why = str(error).split("\n")[0]
        if isinstance(work, Deed):
            log.error("The database refuses for good: %s: %s", work.words, why)
            return True
        connection.close()
        for stretch in work:
            self._try_alone(stretch)
        return True

    def _try_alone(self, stretch: Samples) -> None:
        """One stretch that is refused for good must not take its neighbours along."""
        while not self._ending.is_set():
            try:
                if connection.connection is None:
                    self._connect_anew()
                write_again([stretch])
            except (Error, psycopg.Error) as error:
                if will_pass(error):
                    self._complain(error)
                    continue
                why = str(error).split("\n")[0]
                if stretch.run_id not in self._refused_runs:
                    self._refused_runs.add(stretch.run_id)
                    log.error("The database refuses samples for good: %s", why)
                    self._emit(WriteRefused(stretch.run_id, why))
            return

    def _complain(self, error: Exception) -> None:
        self.trouble = str(error).split("\n")[0]
        log.warning("The database takes nothing: %s", self.trouble)
        connection.close()
        self._ending.wait(RETRY)

    def _count_out(self, work: list[Samples]) -> None:
        with self._wake:
            self._bytes -= sum(w.nbytes for w in work)
            for _ in work:
                self._arrived.popleft()
