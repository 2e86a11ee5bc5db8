"""The writer of samples: a thread with its own connection that never holds up the recorder."""

import logging
import queue
import threading
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass

import psycopg
from django.db import Error, connection, transaction

log = logging.getLogger(__name__)

BLOCK_COPY = (
    "COPY record_block (stream_id, sequence, start_ns, first_sample, samples, checksum, data) "
    "FROM STDIN (FORMAT BINARY)"
)
BLOCK_TYPES = ["int8", "int8", "int8", "int8", "int4", "int8", "bytea"]
ENVELOPE_COPY = (
    "COPY record_enveloperow (stream_id, channel, level, first_pair, pairs, data) "
    "FROM STDIN (FORMAT BINARY)"
)
ENVELOPE_TYPES = ["int8", "int2", "int2", "int8", "int4", "bytea"]

BlockValues = tuple[int, int, int, int, int, int, bytes]
EnvelopeValues = tuple[int, int, int, int, int, bytes]


def copy_rows(statement: str, types: list[str], rows: Sequence[tuple[int | bytes, ...]]) -> None:
    """Insert rows through psycopg's binary COPY: the fast way for what arrives all day."""
    if not rows:
        return
    connection.ensure_connection()
    with connection.connection.cursor() as cursor, cursor.copy(statement) as copy:
        copy.set_types(types)
        for row in rows:
            copy.write_row(row)


@dataclass(frozen=True, slots=True)
class Samples:
    """What one block adds to the database."""

    block: BlockValues | None  # None: envelope rows alone, when a run ends
    envelope: list[EnvelopeValues]
    arrived: float


Work = Samples | Callable[[], None]


def write_samples(work: list[Samples]) -> None:
    """One transaction for a set of blocks and their envelope rows."""
    blocks = [w.block for w in work if w.block]
    envelope = [row for w in work for row in w.envelope]
    if not envelope:  # a COPY by itself is a transaction
        copy_rows(BLOCK_COPY, BLOCK_TYPES, blocks)
        return
    with transaction.atomic():
        copy_rows(BLOCK_COPY, BLOCK_TYPES, blocks)
        copy_rows(ENVELOPE_COPY, ENVELOPE_TYPES, envelope)


def wait_for_disk(yes: bool) -> None:
    """Whether this connection's commits wait for the disk.

    For samples they do not: a crash of the server loses at most its last half second.
    """
    with connection.cursor() as cursor:
        cursor.execute(f"SET synchronous_commit = {'on' if yes else 'off'}")


class Writer(threading.Thread):
    """Takes work in order. A commit that stalls costs only queue; a failing one is tried again.

    The queue holds five minutes; `full` then tells the recorder to end the run.
    """

    def __init__(self, depth: int = 3000) -> None:
        super().__init__(name="writer", daemon=True)
        self._queue: queue.SimpleQueue[Work | None] = queue.SimpleQueue()
        self._held: list[Work | None] = []  # taken out, but not its turn yet
        self._depth = depth
        self._oldest = 0.0
        self.trouble = ""

    def put(self, work: Work) -> None:
        self._queue.put(work)

    @property
    def full(self) -> bool:
        return self._queue.qsize() > self._depth

    @property
    def backlog_s(self) -> float:
        """Age of the oldest sample that is not yet in the database."""
        return time.monotonic() - self._oldest if self._oldest else 0.0

    def finish(self) -> None:
        """Write what is queued, then end."""
        self._queue.put(None)
        self.join(timeout=30)

    def run(self) -> None:
        while (first := self._held.pop() if self._held else self._queue.get()) is not None:
            if isinstance(first, Samples):
                self._oldest = first.arrived
                samples = [first, *self._waiting_samples()]
                self._insist(lambda samples=samples: self._write(samples))  # type: ignore[misc]
                self._oldest = 0.0
            else:
                self._insist(lambda deed=first: self._do(deed))  # type: ignore[misc]
        connection.close()

    def _write(self, samples: list[Samples]) -> None:
        if connection.connection is None:
            wait_for_disk(False)
        write_samples(samples)

    def _do(self, deed: Callable[[], None]) -> None:
        wait_for_disk(True)
        deed()
        wait_for_disk(False)

    def _waiting_samples(self) -> list[Samples]:
        found: list[Samples] = []
        with suppress(queue.Empty):
            while isinstance(item := self._queue.get_nowait(), Samples):
                found.append(item)
            self._held.append(item)
        return found

    def _insist(self, deed: Callable[[], None]) -> None:
        """Do it, and again each half second while the database refuses."""
        while True:
            try:
                deed()
            except (Error, psycopg.Error) as error:  # COPY raises the driver's own
                self.trouble = str(error).split("\n")[0]
                log.warning("The database refuses samples: %s", self.trouble)
                connection.close()
                time.sleep(0.5)
            else:
                self.trouble = ""
                return
