"""One screen's websocket: frames as binary, news and state as JSON text."""

import asyncio
import contextlib
import json
from typing import Any

from channels.generic.websocket import AsyncWebsocketConsumer

from yoke_server.live.frames import of_channels
from yoke_server.live.hub import hub

NOT_SIGNED_IN = 4401
NOT_UNDERSTOOD = 4400
MOST_CHANNELS = 1024


class LiveConsumer(AsyncWebsocketConsumer):
    """Watches a bench; strangers are turned away.

    A screen that wants some channels only says so: {"subscribe": [keys]}; null means all.
    """

    _pump: "asyncio.Task[None] | None" = None
    _wanted: set[str] | None = None

    async def connect(self) -> None:
        await self.accept()
        if not self.scope["user"].is_authenticated:
            await self.close(NOT_SIGNED_IN)
            return
        self._bench_id = self.scope["url_route"]["kwargs"]["bench_id"]
        self._mailbox = hub.join(self._bench_id)
        self._pump = asyncio.create_task(self._send_on())

    async def receive(self, text_data: str | None = None, bytes_data: bytes | None = None) -> None:
        try:
            wanted = json.loads(text_data or "")["subscribe"]
            if wanted is not None and len(wanted) > MOST_CHANNELS:
                raise ValueError("too many channels")
            self._wanted = None if wanted is None else {str(key) for key in wanted}
        except (ValueError, KeyError, TypeError):
            await self.close(NOT_UNDERSTOOD)

    async def _send_on(self) -> None:
        while True:
            message = await self._mailbox.get()
            if isinstance(message, str):
                await self.send(text_data=message)
            elif frame := of_channels(message, hub.layouts(self._bench_id), self._wanted):
                await self.send(bytes_data=frame)

    async def disconnect(self, code: Any) -> None:
        if self._pump:
            hub.leave(self._bench_id, self._mailbox)
            self._pump.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._pump
