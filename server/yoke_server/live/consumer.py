"""One screen's websocket: frames as binary, news and state as JSON text."""

import asyncio
import contextlib
from typing import Any

from channels.generic.websocket import AsyncWebsocketConsumer

from yoke_server.live.hub import hub

NOT_SIGNED_IN = 4401


class LiveConsumer(AsyncWebsocketConsumer):
    """Watches a bench; strangers are turned away."""

    _pump: "asyncio.Task[None] | None" = None

    async def connect(self) -> None:
        await self.accept()
        if not self.scope["user"].is_authenticated:
            await self.close(NOT_SIGNED_IN)
            return
        self._bench_id = self.scope["url_route"]["kwargs"]["bench_id"]
        self._queue = hub.join(self._bench_id)
        self._pump = asyncio.create_task(self._send_on())

    async def _send_on(self) -> None:
        while True:
            message = await self._queue.get()
            if isinstance(message, bytes):
                await self.send(bytes_data=message)
            else:
                await self.send(text_data=message)

    async def disconnect(self, code: Any) -> None:
        if self._pump:
            hub.leave(self._bench_id, self._queue)
            self._pump.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await self._pump
