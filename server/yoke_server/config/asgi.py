"""ASGI entry: pages and API by Django, live readings by websocket."""

from collections.abc import Awaitable, Callable
from typing import Any

from channels.auth import AuthMiddlewareStack
from channels.routing import ProtocolTypeRouter, URLRouter
from channels.security.websocket import AllowedHostsOriginValidator
from django.core.asgi import get_asgi_application
from django.urls import path

django_application = get_asgi_application()

from yoke_server.live.consumer import LiveConsumer  # noqa: E402
from yoke_server.live.hub import hub  # noqa: E402

Message = dict[str, Any]


async def lifespan(
    scope: Message,
    receive: Callable[[], Awaitable[Message]],
    send: Callable[[Message], Awaitable[None]],
) -> None:
    """Ends the hub's listening when the server shuts down; Django has no such hook."""
    while True:
        message = await receive()
        if message["type"] == "lifespan.shutdown":
            await hub.close()
            await send({"type": "lifespan.shutdown.complete"})
            return
        await send({"type": "lifespan.startup.complete"})


application = ProtocolTypeRouter(
    {
        "http": django_application,
        "websocket": AllowedHostsOriginValidator(
            AuthMiddlewareStack(URLRouter([path("live/<int:bench_id>", LiveConsumer.as_asgi())]))
        ),
        "lifespan": lifespan,
    }
)
