"""Frequent statements, sent to PostgreSQL through libpq's own interface.

The driver's own way converts values, keeps statements and waits in Python, which takes three
times the processor time of the whole. Statements have $1, $2 ... for their values.
"""

import struct
from collections.abc import Sequence
from typing import TYPE_CHECKING

from django.db import connection
from psycopg.errors import error_from_result
from psycopg.pq import ExecStatus

if TYPE_CHECKING:
    from psycopg.pq.abc import PGconn, PGresult

FAILED = (ExecStatus.FATAL_ERROR, ExecStatus.PIPELINE_ABORTED)
TEXT, BINARY = 0, 1
BYTEA = 17  # PostgreSQL's number of the type
RAW = (bytes, memoryview)  # sent as they are

Value = str | int | bytes | memoryview


def run(statement: str, *values: Value) -> "PGresult":
    """On Django's connection of this thread. Raises psycopg.Error."""
    connection.ensure_connection()
    ready, formats = as_sent(values)
    pg = connection.connection.pgconn
    result = pg.exec_params(statement.encode(), ready, param_formats=formats)
    pass_on(pg)
    return check(result)


def pass_on(pg: "PGconn") -> None:
    """Pass received notifications to the listener of this connection."""
    while (notice := pg.notifies()) and pg.notify_handler:
        pg.notify_handler(notice)


def check(result: "PGresult") -> "PGresult":
    """The result, unless it is an error, which is raised as the driver's own."""
    if result.status in FAILED:
        raise error_from_result(result)
    return result


def as_sent(values: Sequence[Value]) -> "tuple[list[bytes | memoryview], list[int]]":
    """Values and the formats they are in: numbers and text as text, bytes as they are."""
    ready = [v if isinstance(v, RAW) else str(v).encode() for v in values]
    formats = [BINARY if isinstance(v, RAW) else TEXT for v in values]
    return ready, formats


def text_array(values: Sequence[int]) -> str:
    """Numbers as PostgreSQL reads an array."""
    return "{" + ",".join(map(str, values)) + "}"


def bytes_array(values: Sequence[bytes]) -> bytes:
    """An array of bytea as PostgreSQL sends one: dimensions, no nulls, type, length, begin."""
    parts = [struct.pack(">iiiii", 1, 0, BYTEA, len(values), 1)]
    for value in values:
        parts += [struct.pack(">i", len(value)), value]
    return b"".join(parts)
