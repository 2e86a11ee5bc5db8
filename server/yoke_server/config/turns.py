"""Whose request is computed when."""

import asyncio
from collections import defaultdict
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from dataclasses import dataclass

from yoke_server.common.problems import Problem, of_status

MOST_HERE = 256  # requests of one person


class Refused(Exception):
    """The request goes no further."""

    def __init__(self, status: int) -> None:
        self.problem: Problem = of_status(status)


class Turn:
    """What a request takes before it is computed, and ends once its answer begins."""

    def __init__(self, *places: asyncio.Semaphore) -> None:
        self._places = places
        self._taken: list[asyncio.Semaphore] = []

    async def begin(self) -> None:
        for place in self._places:
            await place.acquire()
            self._taken.append(place)

    def end(self) -> None:
        """However often it is said."""
        while self._taken:
            self._taken.pop().release()


@dataclass
class _Person:
    """Requests of one person: whose turn it is, and how many are here, answered slowly or not."""

    place: asyncio.Semaphore
    here: int = 0


class Turns:
    """Requests take turns, each person's among themselves: so many of one, so many in all."""

    def __init__(self, of_one: int, in_all: int) -> None:
        self._all = asyncio.Semaphore(in_all)
        self._people: dict[object, _Person] = defaultdict(
            lambda: _Person(asyncio.Semaphore(of_one))
        )

    @asynccontextmanager
    async def take(self, who: object) -> AsyncIterator[Turn]:
        """Raises Refused when too many of one person's requests are here already."""
        person = self._people[who]
        if person.here >= MOST_HERE:
            raise Refused(429)
        turn = Turn(person.place, self._all)
        person.here += 1
        try:
            await turn.begin()
            yield turn
        finally:
            turn.end()
            person.here -= 1
            if not person.here:
                self._people.pop(who, None)
