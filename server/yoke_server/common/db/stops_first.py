"""A database connection reserved for emergency stops in the web process."""

from contextvars import ContextVar
from typing import Any

from django.conf import settings
from django.db import connections
from django.db.backends.base.base import BaseDatabaseWrapper

STOPS = "stops"
stopping: ContextVar[bool] = ContextVar("stopping", default=False)  # set where a stop comes in


def alias() -> str:
    """The connection that this request works on."""
    return STOPS if stopping.get() and STOPS in settings.DATABASES else "default"


def own_connection() -> BaseDatabaseWrapper:
    return connections[alias()]


class StopsFirst:
    """Django's database router: all queries of an emergency stop use its reserved connection."""

    def db_for_read(self, model: Any, **hints: Any) -> str:
        return alias()

    def db_for_write(self, model: Any, **hints: Any) -> str:
        return alias()

    def allow_relation(self, one: Any, other: Any, **hints: Any) -> bool:
        return True  # one database, two ways to it

    def allow_migrate(self, db: str, app_label: str, **hints: Any) -> bool:
        return db == "default"
