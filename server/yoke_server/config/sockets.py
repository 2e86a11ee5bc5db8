"""Who may open a websocket at all: a page of ours, at an address that there is."""

import re
from urllib.parse import urlsplit

from django.conf import settings
from django.http.request import validate_host

from yoke_server.config.asgi_types import Application, Message, Receive, Send

PATH = re.compile(r"^/live/[1-9]\d{0,17}$")
DEFAULT_PORTS = {"http": 80, "https": 443}


def same_origin(scope: Message) -> bool:
    """Whether the page that asks came from the very host and port that it asks, one of ours.

    The browser says both; a client that says no origin is turned away too.
    """
    said = {name: value.decode("latin-1") for name, value in scope["headers"]}
    origin, host = said.get(b"origin", ""), said.get(b"host", "")
    try:
        page, asked = urlsplit(origin), urlsplit(f"//{host}")
        default = DEFAULT_PORTS[page.scheme]
        if not asked.hostname or not validate_host(asked.hostname, settings.ALLOWED_HOSTS):
            return False
        return (page.hostname, page.port or default) == (
            asked.hostname,
            asked.port or default,
        )
    except (KeyError, ValueError):
        return False


class OurPagesOnly:
    """Turns away what comes from elsewhere (403) or asks for what there is not (404)."""

    def __init__(self, application: Application) -> None:
        self._application = application

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        if not same_origin(scope):
            await _turn_away(send, 403)
        elif not PATH.fullmatch(scope["path"]):
            await _turn_away(send, 404)
        else:
            await self._application(scope, receive, send)


async def _turn_away(send: Send, status: int) -> None:
    start = {"type": "websocket.http.response.start", "status": status, "headers": []}
    await send(start)
    await send({"type": "websocket.http.response.body", "body": b""})
