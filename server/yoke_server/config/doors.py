"""What every request passes first, before Django sees it: size, pace, headers, whose turn it is.

All by counting, with nothing looked up: who is signed in is not known here, only whether a
session is claimed at all.
"""

import asyncio
import json
import re
from collections import defaultdict
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from dataclasses import dataclass, field

from django.conf import settings

from yoke_server.common.problems import Problem, of_status
from yoke_server.config.asgi_types import Application, Message, Receive, Send

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
READS_AT_ONCE = 2  # of one person; more would only wait for each other in one process
READS_IN_ALL = 3
READS_WAITING = 256  # of one person
SESSION = re.compile(rb"(?:^|;\s*)sessionid=([^;]+)")


class Refused(Exception):
    """The request goes no further."""

    def __init__(self, status: int) -> None:
        self.problem = of_status(status)


def session_of(scope: Message) -> bytes:
    """The session that a request claims; empty for none."""
    for name, value in scope["headers"]:
        if name == b"cookie" and (found := SESSION.search(value)):
            return found[1]
    return b""


@dataclass
class _Person:
    """Reads of one session: those under way, and how many wait."""

    turn: asyncio.Semaphore = field(default_factory=lambda: asyncio.Semaphore(READS_AT_ONCE))
    here: int = 0


class Turns:
    """Reads take turns, each person's among themselves, so that orders never wait for them."""

    def __init__(self) -> None:
        self._all = asyncio.Semaphore(READS_IN_ALL)
        self._people: dict[object, _Person] = defaultdict(_Person)

    @asynccontextmanager
    async def take(self, who: object) -> AsyncIterator[None]:
        """Raises Refused when too many of one person's reads wait already."""
        person = self._people[who]
        if person.here >= READS_WAITING:
            raise Refused(429)
        person.here += 1
        try:
            async with person.turn, self._all:
                yield
        finally:
            person.here -= 1
            if not person.here:
                self._people.pop(who, None)


class Doors:
    """The application behind its doors."""

    def __init__(self, application: Application) -> None:
        self._application = application
        self._turns = Turns()

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        answer = _Answer(send)
        try:
            who = session_of(scope)
            most = settings.MOST_BYTES if who else settings.MOST_BYTES_OF_STRANGERS
            body = _Body(scope, receive, most)
            if scope["method"] in ("GET", "HEAD") and scope["path"].startswith("/api/"):
                async with self._turns.take(who or (scope.get("client") or ("",))[0]):
                    await self._application(scope, body.receive, answer.send)
            else:
                await self._application(scope, body.receive, answer.send)
        except Refused as refused:
            if not answer.begun:
                await answer.problem(refused.problem)


class _Body:
    """A request's body, cut off where it grows too large or comes too slowly."""

    def __init__(self, scope: Message, receive: Receive, most: int) -> None:
        self._receive = receive
        self._left = most
        self._whole = False
        for name, value in scope["headers"]:
            if name == b"content-length" and (not value.isdigit() or int(value) > most):
                raise Refused(413)

    async def receive(self) -> Message:
        if self._whole:  # what comes now is only the end of the connection
            return await self._receive()
        try:
            async with asyncio.timeout(settings.BODY_SECONDS):
                message = await self._receive()
        except TimeoutError:
            raise Refused(408) from None
        self._left -= len(message.get("body", b""))
        if self._left < 0:
            raise Refused(413)
        self._whole = not message.get("more_body", False)
        return message


class _Answer:
    """Sends an answer on, with the same headers on each."""

    def __init__(self, send: Send) -> None:
        self._send = send
        self.begun = False

    async def send(self, message: Message) -> None:
        if message["type"] == "http.response.start":
            self.begun = True
            there = {name.lower() for name, _ in message["headers"]}
            more = [(n, v) for n, v in HEADERS.items() if n not in there]
            message["headers"] = [*message["headers"], *more]
        await self._send(message)

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
