"""From the database's notifications to the screens. A notice is a hint; rows are the truth."""

import asyncio
import contextlib
import json
import logging
from typing import Any

import psycopg
from django.db import connection

from yoke_server.config.notify import LIVE, NEWS, STATE

log = logging.getLogger(__name__)

QUEUE = 40  # messages a slow screen may be behind before it loses its oldest
Message = bytes | str

FRAMES_SQL = """
SELECT seq, payload FROM bench_liveframe WHERE bench_id = %s AND seq > %s ORDER BY seq LIMIT 50
"""
STATE_SQL = "SELECT state FROM bench_bench WHERE id = %s"


class Hub:
    """One LISTEN connection and one for reading, shared by all screens of this process."""

    def __init__(self) -> None:
        self._screens: dict[int, set[asyncio.Queue[Message]]] = {}
        self._last: dict[int, int] = {}
        self._task: asyncio.Task[None] | None = None
        self.listening = asyncio.Event()

    def join(self, bench_id: int) -> "asyncio.Queue[Message]":
        """A queue that gets what happens on a bench from now on."""
        queue: asyncio.Queue[Message] = asyncio.Queue(QUEUE)
        if not self._screens.get(bench_id):
            self._last.pop(bench_id, None)  # what nobody watched is not news
        self._screens.setdefault(bench_id, set()).add(queue)
        if self._task is None or self._task.done():
            self._task = asyncio.create_task(self._keep_listening())
        return queue

    def leave(self, bench_id: int, queue: "asyncio.Queue[Message]") -> None:
        self._screens.get(bench_id, set()).discard(queue)

    async def close(self) -> None:
        if self._task:
            self._task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._task

    async def _keep_listening(self) -> None:
        while True:
            try:
                await self._listen()
            except psycopg.Error as error:
                self.listening.clear()
                log.warning("Live readings wait for the database: %s", error)
                await asyncio.sleep(0.5)

    async def _listen(self) -> None:
        address = _address()
        async with (
            await psycopg.AsyncConnection.connect(**address, autocommit=True) as ear,
            await psycopg.AsyncConnection.connect(**address, autocommit=True) as eye,
        ):
            for channel in (LIVE, NEWS, STATE):
                await ear.execute(f"LISTEN {channel}")
            for bench_id in self._screens:
                await self._show_state(eye, bench_id)
                if bench_id in self._last:  # what came while the connection was cut
                    await self._show_frames(eye, bench_id)
            self.listening.set()
            async for notice in ear.notifies():
                await self._on_notice(eye, notice.channel, notice.payload)

    async def _on_notice(
        self, eye: psycopg.AsyncConnection[Any], channel: str, payload: str
    ) -> None:
        if channel == NEWS:
            for bench_id in self._screens:
                self._tell(bench_id, payload)
        elif channel == STATE:
            await self._show_state(eye, int(payload))
        elif self._screens.get(int(payload)):
            await self._show_frames(eye, int(payload))

    async def _show_frames(self, eye: psycopg.AsyncConnection[Any], bench_id: int) -> None:
        if bench_id not in self._last:
            row = await (
                await eye.execute("SELECT coalesce(max(seq), 0) - 1 FROM bench_liveframe")
            ).fetchone()
            self._last[bench_id] = row[0] if row else 0
        cursor = await eye.execute(FRAMES_SQL, [bench_id, self._last[bench_id]], binary=True)
        for seq, frame in await cursor.fetchall():
            self._last[bench_id] = seq
            self._tell(bench_id, bytes(frame))

    async def _show_state(self, eye: psycopg.AsyncConnection[Any], bench_id: int) -> None:
        if self._screens.get(bench_id):
            row = await (await eye.execute(STATE_SQL, [bench_id])).fetchone()
            if row:
                self._tell(bench_id, json.dumps({"kind": "state", "state": row[0]}))

    def _tell(self, bench_id: int, message: Message) -> None:
        for queue in self._screens.get(bench_id, ()):
            if queue.full():
                queue.get_nowait()
            queue.put_nowait(message)


def _address() -> dict[str, Any]:
    settings = connection.settings_dict
    return {
        "host": settings["HOST"], "port": settings["PORT"], "dbname": settings["NAME"],
        "user": settings["USER"], "password": settings["PASSWORD"],
    }  # fmt: skip


hub = Hub()
