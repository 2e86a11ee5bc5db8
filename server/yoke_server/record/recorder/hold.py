"""One recorder a bench: a lock in the database that lives as long as its holder's connection."""

from datetime import UTC, datetime, timedelta

from django.db import connection

from yoke_server.bench.models import Bench

LOCK_CLASS = 0x596F6B65  # "Yoke"
SIGN_OF_LIFE = timedelta(seconds=3)


class Hold:
    """Taken and kept on the writer's connection: while the database still works for a dead
    recorder, no other one writes."""

    def __init__(self, bench_id: int) -> None:
        self._bench_id = bench_id
        self.held_once = False

    def take(self) -> bool:
        """Whether the bench is this recorder's. One that is away for a moment keeps it."""
        if not self._try():
            return False
        if not self.held_once and self._another_lives():
            self.release()
            return False
        self.held_once = True
        return True

    def _try(self) -> bool:
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_try_advisory_lock(%s, %s)", [LOCK_CLASS, self._bench_id])
            return bool(cursor.fetchone()[0])

    def _another_lives(self) -> bool:
        state = Bench.objects.values("state", "state_at").get(pk=self._bench_id)
        fresh = state["state_at"] and datetime.now(UTC) - state["state_at"] < SIGN_OF_LIFE
        return bool(fresh and not state["state"].get("left"))

    def release(self) -> None:
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_unlock(%s, %s)", [LOCK_CLASS, self._bench_id])
