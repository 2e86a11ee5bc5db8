"""How many requests are computed at once: of one person, and of all."""

import asyncio
from collections import defaultdict
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from dataclasses import dataclass

from yoke_server.common.http.problems import Problem, of_status

MAX_OPEN = 256  # requests of one person, waiting, computed or being sent


class Refused(Exception):
    """The request goes no further."""

    def __init__(self, status: int) -> None:
        self.problem: Problem = of_status(status)


class Slot:
    """Permission to compute, which a request gives back as soon as its answer begins."""

    def __init__(self, *semaphores: asyncio.Semaphore) -> None:
        self._semaphores = semaphores
        self._acquired: list[asyncio.Semaphore] = []

    async def acquire(self) -> None:
        for semaphore in self._semaphores:
            await semaphore.acquire()
            self._acquired.append(semaphore)

    def release(self) -> None:
        """May be called more than once."""
        while self._acquired:
            self._acquired.pop().release()


@dataclass
class _Person:
    """One person's slots, and how many of their requests are open."""

    semaphore: asyncio.Semaphore
    open: int = 0


class ConcurrencyLimiter:
    """Limits how many requests are computed at once; each person waits behind their own.

    per_person, in_all : slots
    """

    def __init__(self, per_person: int, in_all: int) -> None:
        self._all = asyncio.Semaphore(in_all)
        self._people: dict[object, _Person] = defaultdict(
            lambda: _Person(asyncio.Semaphore(per_person))
        )

    @asynccontextmanager
    async def slot(self, person: object) -> AsyncIterator[Slot]:
        """A slot for the time of a request; it can be released earlier.

        Raises Refused (429) when too many of the person's requests are open.
        """
        state = self._people[person]
        if state.open >= MAX_OPEN:
            raise Refused(429)
        slot = Slot(state.semaphore, self._all)
        state.open += 1
        try:
            await slot.acquire()
            yield slot
        finally:
            slot.release()
            state.open -= 1
            if not state.open:
                self._people.pop(person, None)
