"""What all sessions share: a connection, transactions that wait for the disk."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import ClassVar

import psycopg
from django.db import connection, transaction

from yoke_server.record.recorder.storage.postgres.wakeup import WakeupEvent


class PostgresSession:
    """Django's connection of the thread that calls."""

    def __init__(self, bench_id: int) -> None:
        self._bench_id = bench_id

    def open(self) -> None:
        connection.ensure_connection()

    def close(self) -> None:
        connection.close()

    @contextmanager
    def transaction(self) -> Iterator[None]:
        """A transaction that waits for the disk; sample rows alone need not."""
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("SET LOCAL synchronous_commit = on")
            yield


class ListeningSession(PostgresSession):
    """Hears what is notified on its ``channels``."""

    channels: ClassVar[tuple[str, ...]]

    def __init__(self, bench_id: int) -> None:
        super().__init__(bench_id)
        self._wakeup = WakeupEvent()

    def open(self) -> None:
        super().open()
        with connection.cursor() as cursor:
            for channel in self.channels:
                cursor.execute(f"LISTEN {channel}")

    def wake(self) -> None:
        """From any thread."""
        self._wakeup.ring()

    def notices(self, timeout: float) -> list[psycopg.Notify]:
        """What was notified meanwhile; back at once when it is woken."""
        return self._wakeup.wait(connection.connection, timeout)
