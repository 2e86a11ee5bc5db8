"""Reading several tables as they stood at one moment."""

from collections.abc import Iterator
from contextlib import contextmanager

from django.db import connection, transaction


@contextmanager
def one_state() -> Iterator[None]:
    """Everything read in this block is of one state of the database."""
    outermost = not connection.in_atomic_block
    with transaction.atomic():
        if outermost:  # it can only be said at a transaction's beginning
            with connection.cursor() as cursor:
                cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
        yield
