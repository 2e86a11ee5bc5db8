"""Run the web process: `python -m yoke_server.config.serve --port N`. One place for its limits."""

import argparse
import asyncio
import os
import sys

import h11
import uvicorn
from django.conf import settings
from uvicorn.protocols.http.h11_impl import H11Protocol

IDLE = 30  # s that a connection may stay open between requests
CONNECTIONS = 1000
SWITCH = 0.0005  # s that a thread may compute while others wait: an order must not wait for reads
FRAME_BYTES = 65_536  # of what a screen says; it only subscribes


class PatientOnlySoLong(H11Protocol):
    """Hangs up on whoever does not finish the head of a request."""

    _waiting: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        self._wait()

    def data_received(self, data: bytes) -> None:
        super().data_received(data)
        if self.conn.their_state is not h11.IDLE:  # the head is complete
            self._stop_waiting()
        elif self.conn.trailing_data[0]:
            self._wait()

    def connection_lost(self, exc: Exception | None) -> None:
        self._stop_waiting()
        super().connection_lost(exc)

    def _wait(self) -> None:
        if self._waiting is None:
            self._waiting = self.loop.call_later(settings.HEAD_SECONDS, self.transport.close)

    def _stop_waiting(self) -> None:
        if self._waiting:
            self._waiting.cancel()
        self._waiting = None


def main() -> None:
    options = argparse.ArgumentParser(prog="serve")
    options.add_argument("--port", type=int, required=True, help="0: any; it is printed")
    port = options.parse_args().port
    sys.setswitchinterval(SWITCH)
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "yoke_server.config.settings")
    uvicorn.run(
        "yoke_server.config.asgi:application",
        host="127.0.0.1",
        port=port,
        http=PatientOnlySoLong,
        ws_max_size=FRAME_BYTES,
        timeout_keep_alive=IDLE,
        timeout_graceful_shutdown=3,
        limit_concurrency=CONNECTIONS,
        proxy_headers=False,  # whom to believe is ours to say (accounts/address.py)
        server_header=False,
        access_log=False,
        log_level=os.environ.get("YOKE_WEB_LOG", "warning"),
    )


if __name__ == "__main__":
    main()
