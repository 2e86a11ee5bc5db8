"""The writer's database session, and the advisory lock that gives a bench to one recorder."""

from collections.abc import Sequence
from contextlib import suppress
from enum import Enum

import psycopg
from django.db import Error

from yoke_server.record.recorder.model.events import Began, NotBegun
from yoke_server.record.recorder.storage.runs import begin_run, close_run
from yoke_server.record.recorder.storage.sessions import StoreSession
from yoke_server.record.recorder.storage.work import Close, Mark, Plan
from yoke_server.record.store import Samples, write_samples


class Hold(Enum):
    """Whose a bench is, when a recorder asks for it."""

    OURS = "ours"
    FREED = "freed"  # nobody's who lives: ask again
    ANOTHERS = "another's"


STALE = 3.0  # s without a sign of life, after which a recorder counts as dead


class BenchDatabase:
    """One connection, of the writer's thread, which holds the bench as long as it lives.

    A lock keeps two recorders apart; signs of life say whose it is: a session that the server
    keeps for a recorder that is gone, or for this one's own broken connection, is ended. A
    fresh recorder takes the bench only where no other one was alive some seconds ago.
    """

    def __init__(self, session: StoreSession, holder: str) -> None:
        self._session = session
        self._holder = holder
        self._held_once = False

    def connect(self) -> Hold:
        self._session.open()
        sign = self._session.sign_of_life()
        other_lives = sign and sign.holder not in ("", self._holder) and sign.age_s < STALE
        if other_lives:
            return Hold.ANOTHERS
        if not self._session.try_lock():
            self._session.end_lock_holder()  # a session that nobody uses any more
            return Hold.FREED
        self._session.take_bench(self._holder)
        self._held_once = True
        return Hold.OURS

    def disconnect(self) -> None:
        self._session.close()

    def leave(self) -> None:
        """Whoever comes next need not wait."""
        with suppress(Error, psycopg.Error):
            if self._held_once:
                self._session.leave_bench(self._holder)
                self._session.unlock()
        self._session.close()

    def write(self, rows: Sequence[Samples]) -> None:
        """Raises RowsMissing where rows before these are not there."""
        write_samples(rows, self._session.add_row, self._session.end_of)

    def log_positions(self) -> tuple[int, int]:
        """Bytes of the server's log: written into it, and flushed to its disk."""
        return self._session.log_positions()

    def put_on_disk(self) -> None:
        self._session.put_on_disk()

    def begin(self, plan: Plan) -> Began | NotBegun:
        return begin_run(self._session, plan)

    def mark(self, work: Mark) -> None:
        with self._session.transaction():
            self._session.add_mark(work)

    def close(self, work: Close) -> None:
        close_run(self._session, work)
