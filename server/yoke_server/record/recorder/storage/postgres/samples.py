"""The writer's session on PostgreSQL: who holds the bench, its runs, their samples."""

from django.db import connection

from yoke_server.bench.models import RecorderSign
from yoke_server.common.clock import age_s, clock_timestamp
from yoke_server.record import store
from yoke_server.record.recorder.storage.postgres.runs import PostgresRuns
from yoke_server.record.recorder.storage.sessions import SignOfLife
from yoke_server.record.store import Samples

LOCK_CLASS = 0x596F6B65  # "Yoke"
END_HOLDER_SQL = """
SELECT pg_terminate_backend(pid) FROM pg_locks
WHERE locktype = 'advisory' AND classid = %s AND objid = %s AND granted
AND database = (SELECT oid FROM pg_database WHERE datname = current_database())
"""


class PostgresStore(PostgresRuns):
    """A connection whose commits do not wait for the disk, but for transactions as a whole."""

    def open(self) -> None:
        super().open()
        store.wait_for_disk(False)

    def try_lock(self) -> bool:
        return bool(self._ask("SELECT pg_try_advisory_lock(%s, %s)"))

    def unlock(self) -> None:
        self._ask("SELECT pg_advisory_unlock(%s, %s)")

    def end_lock_holder(self) -> None:
        self._ask(END_HOLDER_SQL)

    def _ask(self, statement: str) -> object:
        with connection.cursor() as cursor:
            cursor.execute(statement, [LOCK_CLASS, self._bench_id])
            row = cursor.fetchone()
            return row[0] if row else None

    def sign_of_life(self) -> SignOfLife | None:
        sign = RecorderSign.objects.filter(pk=self._bench_id).values_list("holder", age_s("at"))
        return SignOfLife(*found) if (found := sign.first()) else None

    def take_bench(self, holder: str) -> None:
        RecorderSign.objects.update_or_create(
            pk=self._bench_id, defaults={"holder": holder, "at": clock_timestamp()}
        )

    def leave_bench(self, holder: str) -> None:
        RecorderSign.objects.filter(pk=self._bench_id, holder=holder).update(holder="")

    def add_row(self, row: Samples) -> bool:
        return store.add_row(row)

    def end_of(self, stream_id: int) -> int:
        return store.end_of(stream_id)

    def log_positions(self) -> tuple[int, int]:
        return store.log_positions()

    def put_on_disk(self) -> None:
        store.put_on_disk()
