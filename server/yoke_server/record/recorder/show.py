"""Showing: live frames and the bench's state go to the web on a connection of their own."""

import json
import logging
import queue
import threading
from datetime import UTC, datetime
from typing import Any

import psycopg
from django.db import Error, connection

from yoke_server.common.notify import LIVE, NEWS, RECORDER, STATE

log = logging.getLogger(__name__)

KEEP_FRAMES = 100
FRAME_SQL = f"""
WITH added AS (INSERT INTO bench_liveframe (bench_id, payload) VALUES (%s, %s))
SELECT pg_notify('{LIVE}', %s)
"""  # noqa: S608
# Frames of a bench beyond the newest hundred; sequences are shared by benches, so they are counted.
PRUNE_SQL = """
DELETE FROM bench_liveframe WHERE bench_id = %s AND seq <
    (SELECT seq FROM bench_liveframe WHERE bench_id = %s ORDER BY seq DESC OFFSET %s LIMIT 1)
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
        self._items: queue.SimpleQueue[bytes | dict[str, Any] | str | None] = queue.SimpleQueue()
        self._count = 0
        self._cursor: psycopg.Cursor[Any] | None = None

    def frame(self, payload: bytes) -> None:
        if self._items.qsize() < KEEP_FRAMES:
            self._items.put(payload)

    def state(self, state: dict[str, Any]) -> None:
        self._items.put(state)

    def news(self, kind: str) -> None:
        """Tell the screens, after the state that was put before, to look anew."""
        self._items.put(kind)

    def finish(self) -> None:
        self._items.put(None)
        self.join(timeout=5)

    def run(self) -> None:
        while (item := self._items.get()) is not None:
            try:
                self._send(item)
            except (Error, psycopg.Error) as error:
                log.warning("Nothing shown: %s", str(error).split("\n")[0])
                connection.close()
        connection.close()

    def _own_cursor(self) -> "psycopg.Cursor[Any]":
        """The driver's own, kept, its statements prepared: ten times a second, all day."""
        connection.ensure_connection()
        if self._cursor is None or self._cursor.connection is not connection.connection:
            self._cursor = psycopg.Cursor(connection.connection)
        return self._cursor

    def _send(self, item: bytes | dict[str, Any] | str) -> None:
        cursor, bench = self._own_cursor(), self._bench_id
        if isinstance(item, str):
            news = json.dumps({"kind": item, "bench": bench, "by": RECORDER})
            cursor.execute("SELECT pg_notify(%s, %s)", [NEWS, news])
        elif isinstance(item, dict):
            cursor.execute(STATE_SQL, [json.dumps(item), datetime.now(UTC), bench, str(bench)])
        else:
            cursor.execute(FRAME_SQL, [bench, item, str(bench)], prepare=True)
            self._count += 1
            if self._count % KEEP_FRAMES == 0:
                cursor.execute(PRUNE_SQL, [bench, bench, KEEP_FRAMES])
