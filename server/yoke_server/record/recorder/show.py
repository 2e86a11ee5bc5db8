"""Showing: live frames and the bench's state go to the web on a connection of their own."""

import json
import logging
import queue
import threading
from datetime import UTC, datetime
from typing import Any

import psycopg
from django.db import Error, connection

from yoke_server.config.notify import LIVE, STATE

log = logging.getLogger(__name__)

KEEP_FRAMES = 100
FRAME_SQL = f"""
WITH added AS (INSERT INTO bench_liveframe (bench_id, payload) VALUES (%s, %s))
SELECT pg_notify('{LIVE}', %s)
"""  # noqa: S608
PRUNE_SQL = """
DELETE FROM bench_liveframe WHERE bench_id = %s AND seq <
    (SELECT max(seq) FROM bench_liveframe WHERE bench_id = %s) - %s
"""
STATE_SQL = f"""
WITH changed AS (UPDATE bench_bench SET state = %s, state_at = %s WHERE id = %s)
SELECT pg_notify('{STATE}', %s)
"""  # noqa: S608


class Show(threading.Thread):
    """Bounded: when the web side stalls, the oldest frames are dropped."""

    def __init__(self, bench_id: int) -> None:
        super().__init__(name=f"show-{bench_id}", daemon=True)
        self._bench_id = bench_id
        self._frames: queue.SimpleQueue[bytes | dict[str, Any] | None] = queue.SimpleQueue()
        self._count = 0

    def frame(self, payload: bytes) -> None:
        if self._frames.qsize() < KEEP_FRAMES:
            self._frames.put(payload)

    def state(self, state: dict[str, Any]) -> None:
        self._frames.put(state)

    def finish(self) -> None:
        self._frames.put(None)
        self.join(timeout=5)

    def run(self) -> None:
        while (item := self._frames.get()) is not None:
            try:
                self._send(item)
            except (Error, psycopg.Error) as error:
                log.warning("Nothing shown: %s", str(error).split("\n")[0])
                connection.close()
        connection.close()

    def _send(self, item: bytes | dict[str, Any]) -> None:
        connection.ensure_connection()
        # The driver's own cursor, its statements prepared: ten times a second, all day.
        cursor, bench = psycopg.Cursor(connection.connection), self._bench_id
        if isinstance(item, dict):
            cursor.execute(STATE_SQL, [json.dumps(item), datetime.now(UTC), bench, str(bench)])
            return
        cursor.execute(FRAME_SQL, [bench, item, str(bench)], prepare=True)
        self._count += 1
        if self._count % KEEP_FRAMES == 0:
            cursor.execute(PRUNE_SQL, [bench, bench, KEEP_FRAMES])
