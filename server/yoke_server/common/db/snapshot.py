"""Reading several tables in one snapshot of the database."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import wraps
from typing import Any, ParamSpec, TypeVar

from django.db import connection, transaction

P = ParamSpec("P")
R = TypeVar("R")
_read: ContextVar[dict[Any, Any] | None] = ContextVar(
    "results cached in this snapshot", default=None
)


@contextmanager
def read_snapshot() -> Iterator[None]:
    """Run the block in a REPEATABLE READ transaction. It must not write."""
    outermost = not connection.in_atomic_block
    with transaction.atomic():
        if outermost:  # it can only be said at a transaction's beginning
            with connection.cursor() as cursor:
                cursor.execute("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ")
        token = _read.set({})
        try:
            yield
        finally:
            _read.reset(token)


def cached_in_snapshot(read: Callable[P, R]) -> Callable[P, R]:
    """Decorate a read: within `read_snapshot` its result is cached by its arguments."""

    @wraps(read)
    def reading(*args: P.args, **kwargs: P.kwargs) -> R:
        known = _read.get()
        if known is None:
            return read(*args, **kwargs)
        what = (read, args, *sorted(kwargs.items()))
        if what not in known:
            known[what] = read(*args, **kwargs)
        found: R = known[what]
        return found

    return reading
