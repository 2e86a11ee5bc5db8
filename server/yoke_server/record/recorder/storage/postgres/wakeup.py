"""Waiting for the database's notices and for other threads, whichever comes first."""

import os
import select
from typing import Any

import psycopg

from yoke_server.common.db.statement import pass_on

Link = psycopg.Connection[Any]


class WakeupEvent:
    """Rung by any thread; one waits. The driver's own waiting wakes up ten times a second."""

    def __init__(self) -> None:
        self._rung = open(os.eventfd(0, os.EFD_NONBLOCK), "r+b", buffering=0)  # noqa: SIM115
        self._link: Link | None = None
        self._found: list[psycopg.Notify] = []
        self._keep = self._found.append

    def ring(self) -> None:
        os.eventfd_write(self._rung.fileno(), 1)

    def wait(self, link: Link, timeout: float) -> list[psycopg.Notify]:
        """Until it is rung, or something is notified, which is given.

        What came before the connection broke is given first; then psycopg.Error is raised.
        """
        if link is not self._link:
            self._listen_to(link)
        places = self._places.poll(0 if self._found else timeout * 1e3)
        for place, _ in places:
            if place == self._rung.fileno():
                os.eventfd_read(place)
            else:
                self._take_in(link)
        found, self._found[:] = self._found[:], []
        return found

    def _take_in(self, link: Link) -> None:
        try:
            link.pgconn.consume_input()
        except psycopg.Error:
            pass_on(link.pgconn)
            if not self._found:
                raise
        else:
            pass_on(link.pgconn)

    def _listen_to(self, link: Link) -> None:
        self._found += link.notifies(timeout=0)  # what came before
        if self._link:
            self._link.remove_notify_handler(self._keep)
        self._link = link
        link.add_notify_handler(self._keep)
        self._places = select.poll()
        for place in (link.fileno(), self._rung.fileno()):
            self._places.register(place, select.POLLIN)
