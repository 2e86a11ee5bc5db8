"""The writer's hands on PostgreSQL, and the lock that makes a bench one recorder's."""

from collections.abc import Sequence
from contextlib import suppress
from datetime import UTC, datetime, timedelta

import psycopg
from django.db import Error, connection

from yoke_server.bench.models import Bench
from yoke_server.record.recorder.model.events import Event
from yoke_server.record.recorder.storage.runs import Plan, begin_run, close_run
from yoke_server.record.recorder.storage.writer import Close
from yoke_server.record.store import Samples, wait_for_disk, write_again, write_samples

LOCK_CLASS = 0x596F6B65  # "Yoke"
SIGN_OF_LIFE = timedelta(seconds=3)


class BenchDatabase:
    """One connection, of the writer's thread, which holds the bench as long as it lives.

    While the database still works for a dead recorder, its lock stands and no other one
    writes. A recorder that was away for a moment finds its bench again: a fresh one takes it
    only where no sign of life of another was left for some seconds.
    """

    def __init__(self, bench_id: int) -> None:
        self._bench_id = bench_id
        self._held_once = False

    def connect(self) -> bool:
        connection.ensure_connection()
        if not self._try():
            return False
        if not self._held_once and self._another_lives():
            self._release()
            return False
        self._held_once = True
        wait_for_disk(False)
        return True

    def disconnect(self) -> None:
        connection.close()

    def leave(self) -> None:
        with suppress(Error, psycopg.Error):
            if self._held_once and connection.connection:
                self._release()
        connection.close()

    def write(self, work: Sequence[Samples]) -> None:
        write_samples(work)

    def write_again(self, work: Sequence[Samples]) -> None:
        write_again(work)

    def begin(self, plan: Plan) -> Event:
        wait_for_disk(True)
        event = begin_run(plan)
        wait_for_disk(False)
        return event

    def close(self, work: Close) -> None:
        wait_for_disk(True)
        close_run(work.run_id, work.state, work.why, work.streams)
        wait_for_disk(False)

    def _try(self) -> bool:
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_try_advisory_lock(%s, %s)", [LOCK_CLASS, self._bench_id])
            return bool(cursor.fetchone()[0])

    def _release(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_unlock(%s, %s)", [LOCK_CLASS, self._bench_id])

    def _another_lives(self) -> bool:
        state = Bench.objects.values("state", "state_at").get(pk=self._bench_id)
        fresh = state["state_at"] and datetime.now(UTC) - state["state_at"] < SIGN_OF_LIFE
        return bool(fresh and not state["state"].get("left"))
