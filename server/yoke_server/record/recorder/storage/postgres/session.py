"""What all sessions share: a connection, transactions that wait for the disk."""

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection, transaction


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
