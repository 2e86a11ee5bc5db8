"""The live publisher: sends live frames and the bench's state on its own connection."""

import json
import logging
import threading
import time
from datetime import UTC, datetime

import psycopg
from django.db import Error, connection

from yoke_server.bench.statements import ADD_FRAME, PRUNE_FRAMES, SET_STATE
from yoke_server.common.db.notify import NEWS, RECORDER
from yoke_server.common.db.statement import Value
from yoke_server.live.protocol import BenchState
from yoke_server.record.recorder.display.pipelined_connection import PipelinedConnection

log = logging.getLogger(__name__)

KEEP_FRAMES = 100
RETRY = 0.5  # s between tries to connect
LAST_WORDS = 5.0  # s that they may take
NEWS_SQL = f"SELECT pg_notify('{NEWS}', $1)"


class LivePublisher:
    """Sends from the runner's turn and waits for nothing: what finds no way is dropped.

    All of it is of the moment: the next frame and the next state say the same, newer.
    """

    def __init__(self, bench_id: int) -> None:
        self._bench = bench_id
        self._line: PipelinedConnection | None = None
        self._connecting: threading.Thread | None = None
        self._retry_at = 0.0
        self._frames = 0
        self._ended = False

    def start(self) -> None:
        self._connect()

    def frame(self, payload: bytes) -> None:
        self._send(ADD_FRAME, self._bench, payload, self._bench)
        self._frames += 1
        if self._frames % KEEP_FRAMES == 0:
            self._send(PRUNE_FRAMES, self._bench, KEEP_FRAMES)

    def state(self, state: BenchState) -> None:
        now = datetime.now(UTC).isoformat()
        self._send(SET_STATE, self._bench, state.model_dump_json(), now, self._bench)

    def news(self, kind: str) -> None:
        """Notify the screens to reload, after the state that was sent before."""
        news = {"kind": kind, "bench": self._bench, "by": RECORDER}
        self._send(NEWS_SQL, json.dumps(news))

    def finish(self) -> None:
        self._ended = True
        if self._line is None:
            return
        try:
            self._line.wait(LAST_WORDS)
        except psycopg.Error as error:
            _not_shown(error)
        self._line.close()

    def _send(self, statement: str, *values: Value) -> None:
        if self._line is None:
            self._connect_beside()
            return
        try:
            self._line.send(statement, *values)
        except psycopg.Error as error:
            _not_shown(error)
            self._line.close()
            self._line = None

    def _connect_beside(self) -> None:
        """Connect in a separate thread: an unreachable database may block for long."""
        busy = self._connecting and self._connecting.is_alive()
        if not busy and time.monotonic() >= self._retry_at:
            self._retry_at = time.monotonic() + RETRY
            self._connecting = threading.Thread(target=self._connect, name="show", daemon=True)
            self._connecting.start()

    def _connect(self) -> None:
        try:
            link = connection.get_new_connection(connection.get_connection_params())
            link.autocommit = True
            link.execute("SET synchronous_commit = off")
            line = PipelinedConnection(link, [ADD_FRAME, PRUNE_FRAMES, SET_STATE, NEWS_SQL])
        except (Error, psycopg.Error) as error:
            _not_shown(error)
            return
        self._line = line
        if self._ended:  # meanwhile
            line.close()


def _not_shown(error: Exception) -> None:
    log.warning("Nothing shown: %s", str(error).split("\n")[0])
