"""Checks before Django sees a request: size and pace of its body, concurrency; response headers.

Nothing is queried here but the session of a large body: who is signed in is not known, only which
session is claimed and who was seen signed in with it.
"""

import asyncio
import json
import re
import time
from collections.abc import Callable
from contextlib import AbstractAsyncContextManager, nullcontext

from django.conf import settings

from yoke_server.accounts.known import known
from yoke_server.common.clock import arrived_at
from yoke_server.common.db.stops_first import stopping
from yoke_server.common.http.problems import Problem
from yoke_server.common.http.routes import RouteClass
from yoke_server.config.asgi_types import Application, Message, Receive, Send
from yoke_server.config.claims import is_session
from yoke_server.config.concurrency import ConcurrencyLimiter, Refused, Slot
from yoke_server.config.route_classes import route_class

POLICY = (
    "default-src 'self'; img-src 'self' data: blob:; style-src 'self' 'unsafe-inline'; "
    "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)
HEADERS = {
    b"content-security-policy": POLICY.encode(),
    b"x-frame-options": b"DENY",
    b"x-content-type-options": b"nosniff",
    b"referrer-policy": b"same-origin",
    b"cross-origin-opener-policy": b"same-origin",
    b"cross-origin-resource-policy": b"same-origin",
    b"permissions-policy": b"camera=(), geolocation=(), microphone=(), payment=(), usb=()",
}
if settings.TLS:
    HEADERS[b"strict-transport-security"] = f"max-age={settings.SECURE_HSTS_SECONDS}".encode()
TOO_MANY = 429
PAUSE = 1.0  # s before somebody with too many requests is told so: they would ask again at once
SESSION = re.compile(rb"(?:^|;\s*)sessionid=([^;]+)")


def session_of(scope: Message) -> bytes:
    """The session that a request claims; empty for none."""
    for name, value in scope["headers"]:
        if name == b"cookie" and (found := SESSION.search(value)):
            return found[1]
    return b""


class RequestGuard:
    """ASGI middleware: checks size, pace and concurrency of a request before Django sees it."""

    def __init__(self, application: Application) -> None:
        self._application = application
        # More reads at once would only wait for each other in this process, and orders with
        # them. Orders wait for a recorder, so many may be open. A password costs a third of a
        # second of computing. Sessions that nobody was seen signed in with have limits of their
        # own, so that made-up ones delay nobody else.
        self._reads = ConcurrencyLimiter(per_person=2, in_all=3)
        self._writes = ConcurrencyLimiter(per_person=32, in_all=64)
        self._sign_ins = ConcurrencyLimiter(per_person=1, in_all=2)
        self._unknown = ConcurrencyLimiter(per_person=2, in_all=2)
        self._unknown_stops = ConcurrencyLimiter(per_person=2, in_all=2)

    def _slot(self, scope: Message, session: bytes) -> AbstractAsyncContextManager[Slot]:
        """The slot that a request waits for. Files, and stops of signed-in people, need none."""
        path, read = scope["path"], scope["method"] in ("GET", "HEAD")
        kind, person = route_class(scope["method"], path), known.person_of(session)
        stop = kind is RouteClass.STOP
        address = (scope.get("client") or ("",))[0]
        if not path.startswith("/api/") or (stop and person):
            return nullcontext(Slot())
        if kind is RouteClass.HASHING:
            return self._sign_ins.slot(address)
        if person is None:
            return (self._unknown_stops if stop else self._unknown).slot(session or address)
        return (self._reads if read else self._writes).slot(person)

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        answer = _Answer(send)
        arrived_at.set(time.monotonic())
        stopping.set(route_class(scope["method"], scope["path"]) is RouteClass.STOP)
        try:
            session = session_of(scope)
            body = await read_body(scope, receive, session)  # a slow sender occupies no slot
            async with self._slot(scope, session) as slot:
                answer.when_begun = slot.release
                await self._application(scope, answer.until_left(first(body, receive)), answer.send)
        except Refused as refused:
            if refused.problem.status == TOO_MANY:
                await asyncio.sleep(PAUSE)
            if not answer.begun:
                await answer.problem(refused.problem)


async def read_body(scope: Message, receive: Receive, who: bytes) -> Message:
    """The whole body as one message, cut off where it grows too large or comes too slowly.

    who : the session that is claimed; only who has one may send more than strangers
    """
    room = _Room(who, route_class(scope["method"], scope["path"]))
    for name, value in scope["headers"]:
        if name == b"content-length":
            await room.take(int(value) if value.isdigit() else settings.MAX_BYTES_OF_FILES + 1)
    parts: list[bytes] = []
    try:
        async with asyncio.timeout(settings.BODY_SECONDS):
            while True:
                message = await receive()
                if message["type"] != "http.request":
                    return message  # the visitor has left
                parts.append(message.get("body", b""))
                await room.take(sum(map(len, parts)))
                if not message.get("more_body", False):
                    return {"type": "http.request", "body": b"".join(parts)}
    except TimeoutError:
        raise Refused(408) from None


class _Room:
    """How much somebody may send to an address."""

    def __init__(self, who: bytes, route: RouteClass) -> None:
        self._who = who
        self._most = settings.MAX_BYTES_OF_STRANGERS
        is_file = route is RouteClass.LARGE_BODY
        self._of_known = settings.MAX_BYTES_OF_FILES if is_file else settings.MAX_BYTES

    async def take(self, size: int) -> None:
        """Raises Refused for a body of more bytes than that."""
        if self._most < size <= self._of_known and self._who and await is_session(self._who):
            self._most = self._of_known
        if size > self._most:
            raise Refused(413)


def first(message: Message, receive: Receive) -> Receive:
    """A receiver that returns ``message`` first, then the messages that follow it."""
    waiting = [message]

    async def next_one() -> Message:
        return waiting.pop() if waiting else await receive()

    return next_one


class _Answer:
    """Sends an answer on, with the same headers on each.

    Who does not take it has left: the application is told so, as when the connection breaks,
    and ends as it does then. An error raised into its sending would leave it half ended, with
    its database connection.
    """

    def __init__(self, send: Send) -> None:
        self._send = send
        self._left = asyncio.Event()
        self.begun = False
        self.when_begun: Callable[[], None] = lambda: None

    def until_left(self, receive: Receive) -> Receive:
        async def next_one() -> Message:
            coming, left = (
                asyncio.ensure_future(receive()),
                asyncio.ensure_future(self._left.wait()),
            )
            try:
                await asyncio.wait((coming, left), return_when=asyncio.FIRST_COMPLETED)
                return coming.result() if coming.done() else {"type": "http.disconnect"}
            finally:
                coming.cancel()
                left.cancel()

        return next_one

    async def send(self, message: Message) -> None:
        if self._left.is_set():
            return
        if message["type"] == "http.response.start":
            self.begun = True
            self.when_begun()
            there = {name.lower() for name, _ in message["headers"]}
            more = [(n, v) for n, v in HEADERS.items() if n not in there]
            message["headers"] = [*message["headers"], *more]
        try:
            async with asyncio.timeout(settings.BODY_SECONDS):
                await self._send(message)
        except TimeoutError:  # whoever does not take an answer holds up nobody's turn
            self._left.set()

    async def problem(self, problem: Problem) -> None:
        body = json.dumps(problem.document()).encode()
        headers = [
            (b"content-type", b"application/problem+json"),
            (b"content-length", str(len(body)).encode()),
            (b"connection", b"close"),  # the rest of its body is not read
        ]
        start = {"type": "http.response.start", "status": problem.status, "headers": headers}
        await self.send(start)
        await self.send({"type": "http.response.body", "body": body})
