"""ASGI entry: pages and API by Django, live readings by websocket."""

from channels.auth import AuthMiddlewareStack
from channels.routing import ProtocolTypeRouter, URLRouter
from django.conf import settings
from django.core.asgi import get_asgi_application
from django.urls import path
from servestatic import ServeStaticASGI

django_application = get_asgi_application()

from yoke_server.config.asgi_types import Message, Receive, Send  # noqa: E402
from yoke_server.config.request_guard import RequestGuard  # noqa: E402
from yoke_server.config.sockets import OurPagesOnly  # noqa: E402
from yoke_server.live.consumer import LiveConsumer  # noqa: E402
from yoke_server.live.hub import hub  # noqa: E402


async def lifespan(scope: Message, receive: Receive, send: Send) -> None:
    """The hub listens as long as the server runs; Django has no such hook."""
    while True:
        message = await receive()
        if message["type"] == "lifespan.shutdown":
            await hub.close()
            await send({"type": "lifespan.shutdown.complete"})
            return
        hub.start()
        await send({"type": "lifespan.startup.complete"})


# Built files are served before Django; those under assets/ have their hash in their name.
pages = ServeStaticASGI(
    django_application,
    root=settings.WEB_DIST if settings.WEB_DIST.is_dir() else None,
    allow_all_origins=False,
    immutable_file_test=r"/assets/",
)
application = ProtocolTypeRouter(
    {
        "http": RequestGuard(pages),
        "websocket": OurPagesOnly(
            AuthMiddlewareStack(URLRouter([path("live/<int:bench_id>", LiveConsumer.as_asgi())]))
        ),
        "lifespan": lifespan,
    }
)
