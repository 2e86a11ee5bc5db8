"""The listener for stops, on a connection that does nothing else.

`StopListener.step` does one thing at a time; `PartThread` turns it.
"""

import logging
import queue
import threading
from collections.abc import Callable
from contextlib import suppress

from yoke_server.bench.stops import StopRequested
from yoke_server.record.recorder.model.clock import Clock
from yoke_server.record.recorder.storage.sessions import StopSession
from yoke_server.record.recorder.storage.writer import DATABASE_ERRORS

log = logging.getLogger(__name__)

LOOK_EVERY = 1.0  # s; how the database's absence shows
REMEMBERED = 1000  # stops


class StopListener:
    """``heard_at`` is when the database last answered: later no stop can have been heard.

    hear : takes each stop once, and must have everything stand before it returns
    latch : takes an emergency stop that was carried out before, and is still in force
    """

    def __init__(
        self,
        session: StopSession,
        clock: Clock,
        hear: Callable[[StopRequested], None],
        latch: Callable[[StopRequested], None],
    ) -> None:
        self._session = session
        self._clock = clock
        self._hear = hear
        self._latch = latch
        self._is_open = False
        self._known: dict[str, None] = {}  # keys of the stops that were heard, oldest first
        self._answers: queue.SimpleQueue[tuple[str, str]] = queue.SimpleQueue()
        self._answer: tuple[str, str] | None = None  # that is being given
        self.listening = threading.Event()  # once what was in force before is known
        self.heard_at = clock.monotonic()

    @property
    def is_listening(self) -> bool:
        """Whether a stop that is given now is heard, as far as is known."""
        return self._is_open

    def wake(self) -> None:
        """Look at once. From any thread."""
        self._session.wake()

    def confirm(self, key: str, problem: str) -> None:
        """Report that the stop is confirmed, or what went wrong. From any thread."""
        self._answers.put((key, problem))
        self._session.wake()

    def step(self, timeout: float = LOOK_EVERY) -> bool:
        """Hear what is said within ``timeout`` s; False if the database could not be asked."""
        asked_at = self._clock.monotonic()
        try:
            if not self._is_open:
                self._open()
            for stop in self._session.wait(timeout):
                self._take(stop)
            self._give_answers()
            self._session.ping()
        except DATABASE_ERRORS as error:
            log.warning("Stops cannot be heard: %s", str(error).split("\n")[0])
            self.close()
            return False
        self.heard_at = asked_at
        return True

    def rest(self) -> None:
        """Not at all: a step waits for stops itself."""

    def close(self) -> None:
        self._is_open = False
        self._session.close()

    leave = close

    def _open(self) -> None:
        """Listen first, then look: what is given in between is heard twice, and taken once."""
        self._session.open()
        for stop, is_carried_out in self._session.standing_stops():
            if not is_carried_out:
                self._take(stop)
            elif stop.emergency:
                self._latch(stop)
        self._is_open = True
        self.listening.set()

    def _take(self, stop: StopRequested) -> None:
        if stop.key in self._known:
            return
        self._known[stop.key] = None
        while len(self._known) > REMEMBERED:
            del self._known[next(iter(self._known))]
        self._hear(stop)

    def _give_answers(self) -> None:
        """Send the pending answers; failed ones are repeated after the next connection."""
        with suppress(queue.Empty):
            while True:
                self._answer = self._answer or self._answers.get_nowait()
                self._session.tell(*self._answer)
                self._answer = None
