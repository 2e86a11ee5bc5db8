"""Reading several tables as they stood at one moment."""

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from functools import wraps
from typing import Any, ParamSpec, TypeVar

from django.db import connection, transaction

P = ParamSpec("P")
R = TypeVar("R")
_read: ContextVar[dict[Any, Any] | None] = ContextVar("read in this state", default=None)


@contextmanager
def one_state() -> Iterator[None]:
    """Everything read in this block is of one state of the database; nothing is written in it."""
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


def once_a_state(read: Callable[P, R]) -> Callable[P, R]:
    """A read that is made once in a block of one state, whoever asks for it there."""

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
