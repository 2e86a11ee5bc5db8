"""Limits on connections of the web process: idle ones are closed to make room for active ones."""

import asyncio
from typing import ClassVar

import h11
from django.conf import settings
from uvicorn.protocols.http.h11_impl import H11Protocol

MAX_QUIET = 500  # connections that are between requests


class Connection(H11Protocol):
    """Closes connections that do not finish the request header in time.

    A new connection is never refused: where there are too many quiet ones, the one that has been
    quiet for longest is closed. Otherwise a thousand silent visitors would keep out a stop.
    """

    _quiet: ClassVar[dict["Connection", None]] = {}  # in the order in which they became so
    _waiting: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        self._wait()
        self._become_quiet()

    def data_received(self, data: bytes) -> None:
        super().data_received(data)
        if self.conn.their_state is not h11.IDLE:  # the head is complete
            self._stop_waiting()
        elif self.conn.trailing_data[0]:
            self._wait()

    def handle_events(self) -> None:
        super().handle_events()
        if self.conn.their_state is not h11.IDLE:
            self._quiet.pop(self, None)

    def on_response_complete(self) -> None:
        self._become_quiet()
        super().on_response_complete()  # may begin with the next request

    def connection_lost(self, exc: Exception | None) -> None:
        self._stop_waiting()
        self._quiet.pop(self, None)
        super().connection_lost(exc)

    def _become_quiet(self) -> None:
        self._quiet[self] = None
        if len(self._quiet) > MAX_QUIET:
            oldest = next(iter(self._quiet))
            del self._quiet[oldest]
            oldest.transport.close()

    def _wait(self) -> None:
        if self._waiting is None:
            self._waiting = self.loop.call_later(settings.HEAD_SECONDS, self.transport.close)

    def _stop_waiting(self) -> None:
        if self._waiting:
            self._waiting.cancel()
        self._waiting = None
