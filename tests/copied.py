"""The demo's setup, made once by the services and then copied row by row into each test."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from django.conf import settings
from django.db import connection, transaction

if TYPE_CHECKING:
    from yoke_server.setups.models import Setup

KEPT_TABLES = {"django_migrations", "django_content_type", "auth_permission"}
Rows = dict[str, bytes]  # by table, as COPY gives them
_made: dict[tuple[str, str], Rows] = {}  # all rows of a state, by hasher of passwords and name


def emptied_tables() -> list[str]:
    """All tables whose rows a test may change."""
    return sorted(set(connection.introspection.table_names()) - KEPT_TABLES)


def coupons() -> "Setup":
    """Four channels wired on two amplifiers, nothing zeroed, no run; its numbers never change."""
    from yoke_server.demo import services as demo
    from yoke_server.setups.models import Setup

    _once("coupons", demo.load_coupons)
    return Setup.objects.get(name="Tension")


def fork() -> "Setup":
    """The fork's static setup, beside the coupons, which are there."""
    from yoke_server.demo import services as demo
    from yoke_server.setups.models import Setup

    _once("fork", demo.load_fork, clear=empty)  # of the coupons, which come with it
    return Setup.objects.get(name="Static")


def _once(name: str, make: Callable[[], object], clear: Callable[[], None] = lambda: None) -> None:
    """Bring the database into the state in which ``make`` left it the first time.

    ``clear`` takes away what is there by then and comes again with that state.
    """
    key = settings.PASSWORD_HASHERS[0], name
    if key in _made:
        clear()
        _write(_made[key])
    else:
        make()
        _made[key] = _read()


def empty() -> None:
    """Delete the rows of all tables: a tenth of truncating them."""
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("SET CONSTRAINTS ALL DEFERRED")  # in any order
        cursor.execute(";".join(f"DELETE FROM {table}" for table in emptied_tables()))


def _read() -> Rows:
    found = {}
    with connection.cursor() as cursor:
        for table in emptied_tables():
            with cursor.copy(f'COPY "{table}" TO STDOUT') as copy:
                found[table] = b"".join(bytes(part) for part in copy)
    return {table: rows for table, rows in found.items() if rows}


def _write(rows: Rows) -> None:
    with transaction.atomic(), connection.cursor() as cursor:
        cursor.execute("SET CONSTRAINTS ALL DEFERRED")  # in any order
        for table, lines in rows.items():
            with cursor.copy(f'COPY "{table}" FROM STDIN') as copy:
                copy.write(lines)
