"""A pipelined database connection: sending a statement never waits for its answer."""

import select
import time
from collections.abc import Sequence
from typing import Any

import psycopg
from psycopg.pq import ExecStatus

from yoke_server.common.db.statement import Value, as_sent, check

READ_FROM = 10  # answers; each by itself would cost more than its statement
MAX_UNANSWERED = 100


class PipelinedConnection:
    """A connection in libpq's pipeline mode; each statement is a transaction of its own.

    Answers are read some at a time, when something is sent. Raises psycopg.Error once the
    connection is broken or the database refused a statement: the line is of no more use then.
    """

    def __init__(self, link: "psycopg.Connection[Any]", statements: Sequence[str]) -> None:
        """``link`` is for this line alone; ``statements`` are all that it may send."""
        self._link = link
        self._pg = link.pgconn
        self._names = {text: f"s{i}".encode() for i, text in enumerate(statements)}
        for text, name in self._names.items():
            check(self._pg.prepare(name, text.encode()))
        self._pg.nonblocking = 1
        self._pg.enter_pipeline_mode()
        self.unanswered = 0

    def send(self, statement: str, *values: Value) -> None:
        """One of the prepared; nothing while the database stalls."""
        if self.unanswered >= READ_FROM:
            self._read()
        if self.unanswered >= MAX_UNANSWERED:
            return
        self._pg.send_query_prepared(self._names[statement], *as_sent(values))
        self._pg.pipeline_sync()  # and off it goes
        self.unanswered += 1

    def wait(self, seconds: float) -> None:
        """So long for the answers that are still to come."""
        until, answers = time.monotonic() + seconds, select.poll()
        answers.register(self._pg.socket, select.POLLIN)
        while self.unanswered and (left := until - time.monotonic()) > 0:
            self._pg.flush()
            answers.poll(min(left, 0.1) * 1e3)
            self._read()

    def close(self) -> None:
        self._link.close()

    def _read(self) -> None:
        self._pg.consume_input()
        nothing = 0
        while self.unanswered and not self._pg.is_busy():
            if (result := self._pg.get_result()) is None:  # between a statement and its end
                nothing += 1
                if nothing > self.unanswered * 2:
                    raise psycopg.OperationalError("the database's answers are out of step.")
            elif check(result).status == ExecStatus.PIPELINE_SYNC:
                self.unanswered, nothing = self.unanswered - 1, 0
