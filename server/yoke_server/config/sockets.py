"""Who may open a websocket at all: a page of ours, at an address that exists."""

import re
from urllib.parse import ParseResult

from channels.security.websocket import OriginValidator
from django.conf import settings
from django.http.request import split_domain_port, validate_host

from yoke_server.config.asgi_types import Application, Message, Receive, Send

PATH = re.compile(r"^/live/[1-9]\d{0,17}$")


class _SafeOriginValidator(OriginValidator):
    """Channels' own check; an origin whose port is no number is refused like any other."""

    def validate_origin(self, parsed_origin: ParseResult) -> bool:
        try:
            return bool(super().validate_origin(parsed_origin))
        except ValueError:
            return False


def own_origins(scope: Message) -> list[str]:
    """Origins of the host and port that the request names, if it is one of our hosts.

    The port counts: a page of another server on the same host is not one of ours.
    """
    headers = dict(scope["headers"])
    host = headers.get(b"host", b"").decode("latin-1")
    domain, _ = split_domain_port(host)
    if not domain or not validate_host(domain, settings.ALLOWED_HOSTS):
        return []
    return [f"http://{host}", f"https://{host}"]


class OurPagesOnly:
    """Refuse what comes from elsewhere (403) or asks for a path that does not exist (404)."""

    def __init__(self, application: Application) -> None:
        self._application = application

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        validator = _SafeOriginValidator(self._at_our_path, own_origins(scope))
        await validator(scope, receive, send)

    async def _at_our_path(self, scope: Message, receive: Receive, send: Send) -> None:
        if PATH.fullmatch(scope["path"]):
            await self._application(scope, receive, send)
            return
        await send({"type": "websocket.http.response.start", "status": 404, "headers": []})
        await send({"type": "websocket.http.response.body", "body": b""})
