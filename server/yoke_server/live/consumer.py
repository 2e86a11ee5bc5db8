"""One screen's websocket: frames as binary, news and state as JSON text."""

import asyncio
import contextlib
import logging
from typing import Any

import psycopg
from channels.auth import get_user
from channels.generic.websocket import AsyncWebsocketConsumer
from django.conf import settings
from django.db import Error

from yoke_server.accounts.known import known
from yoke_server.common.db.notify import session_mark
from yoke_server.live.frames import of_channels
from yoke_server.live.hub import hub
from yoke_server.live.subscription import wanted_of

log = logging.getLogger(__name__)

NOT_SIGNED_IN = 4401
NO_BENCH = 4404
NOT_UNDERSTOOD = 4400


class LiveConsumer(AsyncWebsocketConsumer):
    """Watches a bench; strangers are turned away.

    A screen that wants some channels only says so: {"subscribe": [keys]}; null means all.
    """

    _tasks: "tuple[asyncio.Task[None], ...]" = ()
    _wanted: frozenset[str] | None = None

    async def connect(self) -> None:
        await self.accept()
        user = self.scope["user"]
        if not user.is_authenticated:
            await self.close(NOT_SIGNED_IN)
            return
        self._bench_id = self.scope["url_route"]["kwargs"]["bench_id"]
        if not await hub.knows(self._bench_id):
            await self.close(NO_BENCH)
            return
        key = self.scope["session"].session_key or ""
        known.saw(key, user.pk)
        self._mailbox = hub.join(self._bench_id, session_mark(key), user.pk)
        self._tasks = (
            asyncio.create_task(self._send_on()),
            asyncio.create_task(self._ask_again()),
        )

    async def receive(self, text_data: str | None = None, bytes_data: bytes | None = None) -> None:
        try:
            self._wanted = wanted_of(text_data)
        except ValueError:
            await self.close(NOT_UNDERSTOOD)

    async def _send_on(self) -> None:
        while (message := await self._mailbox.get()) is not None:
            if isinstance(message, str):
                await self.send(text_data=message)
            elif frame := of_channels(message, hub.layouts(self._bench_id), self._wanted):
                await self.send(bytes_data=frame)
        await self.close(NOT_SIGNED_IN)

    async def _ask_again(self) -> None:
        """A session may end without a word: by its age, or with a changed password."""
        while True:
            await asyncio.sleep(settings.SESSION_LOOK_SECONDS)
            try:
                may_look = await self._may_look()
            except (Error, psycopg.Error) as error:  # away: the next look tells
                log.warning("Not known who looks: %s", str(error).split("\n")[0])
                continue
            if not may_look:
                self._mailbox.end()

    async def _may_look(self) -> bool:
        session = self.scope["session"]
        alive = await session.aexists(session.session_key or "")
        return bool(alive and (await get_user(self.scope)).is_authenticated)

    async def disconnect(self, code: Any) -> None:
        if not self._tasks:
            return
        hub.leave(self._bench_id, self._mailbox)
        for task in self._tasks:
            task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await task
