"""From the database's notifications to the screens. A notice is a hint; rows are the truth."""

import asyncio
import contextlib
import json
import logging
from collections.abc import Iterator, Mapping, Sequence
from typing import Any, NamedTuple

import psycopg
from channels.db import database_sync_to_async
from django.conf import settings as django_settings
from django.db import connection

from yoke_server.common.db.notify import ANSWERS, LIVE, NEWS, SESSIONS, STATE
from yoke_server.live.mailbox import Mailbox

log = logging.getLogger(__name__)

RETRY = 0.5  # s

Connection = psycopg.AsyncConnection[Any]


class BenchReads(NamedTuple):
    """What is read of a bench; whose tables they are says how.

    is_known, state, newest_frame : of the bench with a number
    frames_after : number and payload of a bench's frames after one, in order
    """

    is_known: str
    state: str
    newest_frame: str
    frames_after: str


class Expected:
    """An answer that somebody waits for: ``event`` is set with each news of it.

    answer : what the news said; of an order it is but a hint to look at the row
    """

    def __init__(self) -> None:
        self.event = asyncio.Event()
        self.answer: dict[str, Any] | None = None


class Hub:
    """One LISTEN connection and one for reading, shared by all screens of this process."""

    def __init__(self, reads: BenchReads | None = None) -> None:
        self._given_reads = reads
        self._screens: dict[int, set[Mailbox]] = {}
        self._last: dict[int, int] = {}  # newest frame shown, by bench
        self._layouts: dict[int, dict[int, list[str]]] = {}
        self._expected: dict[str, Expected] = {}
        self._task: asyncio.Task[None] | None = None
        self.listening = asyncio.Event()

    def read_by(self, reads: BenchReads) -> None:
        """Say how benches are read; once, before any screen joins."""
        self._given_reads = reads

    @property
    def _reads(self) -> BenchReads:
        assert self._given_reads is not None
        return self._given_reads

    def start(self) -> None:
        """Listen from now on, in this event loop."""
        if self._task is None or self._task.done():
            self._task = asyncio.create_task(self._keep_listening())

    @contextlib.contextmanager
    def expecting(self, key: str) -> Iterator["Expected"]:
        """Subscribe to the answer of an order or a stop."""
        told = self._expected[key] = Expected()
        try:
            yield told
        finally:
            self._expected.pop(key, None)

    def join(self, bench_id: int, session: str = "", user: int = 0) -> Mailbox:
        """A mailbox that gets what happens on a bench from now on."""
        mailbox = Mailbox(session, user)
        if not self._screens.get(bench_id):
            self._last.pop(bench_id, None)  # what nobody watched is not news
        self._screens.setdefault(bench_id, set()).add(mailbox)
        self.start()
        return mailbox

    async def knows(self, bench_id: int) -> bool:
        """Whether there is such a bench."""

        def look() -> bool:
            with connection.cursor() as cursor:
                cursor.execute(self._reads.is_known, [bench_id])
                return bool(cursor.fetchone()[0])

        return bool(await database_sync_to_async(look)())

    def leave(self, bench_id: int, mailbox: Mailbox) -> None:
        self._screens.get(bench_id, set()).discard(mailbox)

    def layouts(self, bench_id: int) -> Mapping[int, Sequence[str]]:
        """Which channels stand in a bench's frames, as its state last said."""
        return self._layouts.get(bench_id, {})

    async def close(self) -> None:
        if self._task:
            self._task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._task

    async def _keep_listening(self) -> None:
        """Whatever goes wrong, the screens get on by themselves."""
        while True:
            try:
                await self._listen()
            except psycopg.Error as error:
                log.warning("Live readings wait for the database: %s", error)
            except Exception:
                log.exception("Live readings begin anew")
            self.listening.clear()
            await asyncio.sleep(RETRY)

    async def _listen(self) -> None:
        address = _address()
        async with (
            await psycopg.AsyncConnection.connect(**address, autocommit=True) as ear,
            await psycopg.AsyncConnection.connect(**address, autocommit=True) as eye,
        ):
            for channel in (LIVE, NEWS, STATE, SESSIONS, ANSWERS):
                await ear.execute(f"LISTEN {channel}")
            for bench_id in list(self._screens):  # screens may join meanwhile
                await self._show_state(eye, bench_id)
                await self._catch_up(eye, bench_id)
            self.listening.set()
            async for notice in ear.notifies():
                await self._on_notice(eye, notice.channel, notice.payload)

    async def _catch_up(self, eye: Connection, bench_id: int) -> None:
        """What came while the connection was cut.

        After a crash of the server the frames' table is empty and numbers begin anew: then
        what was last shown means nothing.
        """
        if bench_id not in self._last:
            return
        row = await (await eye.execute(self._reads.newest_frame, [bench_id])).fetchone()
        if row is None or row[0] < self._last[bench_id]:
            self._last[bench_id] = 0
        await self._show_frames(eye, bench_id)

    async def _on_notice(self, eye: Connection, channel: str, payload: str) -> None:
        if channel == NEWS:
            for mailboxes in self._screens.values():
                for mailbox in mailboxes:
                    mailbox.news(payload)
        elif channel == SESSIONS:
            self._end(json.loads(payload))
        elif channel == ANSWERS:
            answer = json.loads(payload)
            if told := self._expected.get(answer["order"]):
                told.answer = answer
                told.event.set()
        elif channel == STATE:
            await self._show_state(eye, int(payload))
        elif self._screens.get(int(payload)):
            await self._show_frames(eye, int(payload))

    def _end(self, ended: dict[str, Any]) -> None:
        """Screens of a session, or of a person, whose rights have ended."""
        for mailboxes in self._screens.values():
            for mailbox in mailboxes:
                if mailbox.belongs_to(ended):
                    mailbox.end()

    async def _show_frames(self, eye: Connection, bench_id: int) -> None:
        if bench_id not in self._last:
            row = await (await eye.execute(self._reads.newest_frame, [bench_id])).fetchone()
            self._last[bench_id] = row[0] - 1 if row else 0
        cursor = await eye.execute(
            self._reads.frames_after, [bench_id, self._last[bench_id]], binary=True
        )
        for seq, frame in await cursor.fetchall():
            self._last[bench_id] = seq
            for mailbox in self._screens.get(bench_id, ()):
                mailbox.frame(bytes(frame))

    async def _show_state(self, eye: Connection, bench_id: int) -> None:
        if not self._screens.get(bench_id):
            return
        row = await (await eye.execute(self._reads.state, [bench_id])).fetchone()
        if row is None:
            return
        layouts = row[0].get("layouts", [])
        self._layouts[bench_id] = {layout["id"]: layout["channels"] for layout in layouts}
        text = json.dumps({"kind": "state", "state": row[0]})
        for mailbox in self._screens.get(bench_id, ()):
            mailbox.state(text)


def _address() -> dict[str, Any]:
    settings = connection.settings_dict
    return {
        "host": settings["HOST"],
        "port": settings["PORT"],
        "dbname": settings["NAME"],
        "user": settings["USER"],
        "password": settings["PASSWORD"],
        **django_settings.PATIENCE,
    }


hub = Hub()
