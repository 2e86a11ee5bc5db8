"""Waiting for the database's notices and for other threads, whichever comes first."""

import os
import select
from typing import Any

import psycopg


class Bell:
    """Rung by any thread; one waits. The driver's own waiting wakes up ten times a second."""

    def __init__(self) -> None:
        self._rung = open(os.eventfd(0, os.EFD_NONBLOCK), "r+b", buffering=0)  # noqa: SIM115

    def ring(self) -> None:
        os.eventfd_write(self._rung.fileno(), 1)

    def wait(self, link: "psycopg.Connection[Any]", timeout: float) -> list[psycopg.Notify]:
        """Until it is rung, or something is notified, which is given."""
        found = list(link.notifies(timeout=0))
        rung, waiting = self._rung.fileno(), select.poll()
        for place in (link.fileno(), rung):
            waiting.register(place, select.POLLIN)
        ready = [place for place, _ in waiting.poll(0 if found else timeout * 1e3)]
        if rung in ready:
            os.eventfd_read(rung)
        return found + list(link.notifies(timeout=0)) if link.fileno() in ready else found
