"""The recorder's heartbeat: a row written each second, which shows that writing works.

Nothing moves while it cannot be written: nobody could give an order that is kept.
"""

import logging
import threading
from collections import deque
from collections.abc import Callable

from yoke_server.bench.stops import StopRequested
from yoke_server.record.recorder.model.clock import Clock
from yoke_server.record.recorder.model.events import BenchLocked, Event
from yoke_server.record.recorder.storage.sessions import SignSession
from yoke_server.record.recorder.storage.writer import DATABASE_ERRORS
from yoke_server.record.store import will_pass

log = logging.getLogger(__name__)

WRITE_EVERY = 1.0  # s


class LifeSign:
    """``written_at`` is monotonic: when that was asked for which the database last wrote."""

    def __init__(
        self, session: SignSession, holder: str, clock: Clock, emit: Callable[[Event], None]
    ) -> None:
        self._session = session
        self._holder = holder
        self._clock = clock
        self._emit = emit
        self._stops: deque[tuple[StopRequested, str]] = deque()  # that are to be written down
        self._taken = False
        self._wakeup = threading.Event()  # something is to be written at once
        self.written_at = clock.monotonic()

    def keep_stop(self, stop: StopRequested, problem: str) -> None:
        """Have a stop written down that was carried out, or what went wrong. From any thread."""
        self._stops.append((stop, problem))
        self._wakeup.set()

    @property
    def has_unkept_stops(self) -> bool:
        return bool(self._stops)

    def step(self) -> bool:
        """Write once; False if the database took nothing."""
        self._wakeup.clear()
        asked_at = self._clock.monotonic()
        try:
            self._session.open()
            if not self._session.sign(self._holder):
                self._lose_bench()
                return False
            self.written_at = asked_at
            self._keep_stops()
        except DATABASE_ERRORS as error:
            log.warning("The sign of life is not written: %s", str(error).split("\n")[0])
            self._session.close()
            return False
        return True

    def rest(self) -> None:
        self._wakeup.wait(WRITE_EVERY)

    def wake(self) -> None:
        self._wakeup.set()

    def close(self) -> None:
        self._session.close()

    leave = close

    def _lose_bench(self) -> None:
        if not self._taken:
            self._taken = True
            self._emit(BenchLocked())

    def _keep_stops(self) -> None:
        while self._stops:
            try:
                self._session.keep_stop(*self._stops[0])
            except DATABASE_ERRORS as error:
                if will_pass(error):
                    raise
                log.exception("A stop cannot be written down.")
            self._stops.popleft()
