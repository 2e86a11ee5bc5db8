"""The recorder's sign of life: written each second, so that it is known that writing works.

Nothing moves while it cannot be written: nobody could give an order that is kept.
"""

import logging
import threading
from collections import deque
from collections.abc import Callable

from yoke_server.bench.stops import StopRequested
from yoke_server.record.recorder.model.clock import Clock
from yoke_server.record.recorder.model.events import BenchTaken, Event
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
        self.wakeup = threading.Event()  # something is to be written at once
        self.written_at = clock.monotonic()

    def keep_stop(self, stop: StopRequested, problem: str) -> None:
        """Have a stop written down that was carried out, or what went wrong. From any thread."""
        self._stops.append((stop, problem))
        self.wakeup.set()

    @property
    def has_unkept_stops(self) -> bool:
        return bool(self._stops)

    def step(self) -> bool:
        """Write once; False if the database took nothing."""
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

    def close(self) -> None:
        self._session.close()

    def _lose_bench(self) -> None:
        if not self._taken:
            self._taken = True
            self._emit(BenchTaken())

    def _keep_stops(self) -> None:
        while self._stops:
            try:
                self._session.keep_stop(*self._stops[0])
            except DATABASE_ERRORS as error:
                if will_pass(error):
                    raise
                log.exception("A stop cannot be written down.")
            self._stops.popleft()


class SignThread(threading.Thread):
    """Has the sign written each second until it is asked to end."""

    def __init__(self, sign: LifeSign) -> None:
        super().__init__(name="life-sign", daemon=True)
        self._sign = sign
        self._ending = threading.Event()

    def finish(self) -> None:
        self._ending.set()
        self._sign.wakeup.set()
        self.join(timeout=5)

    def run(self) -> None:
        while not self._ending.is_set():
            self._sign.wakeup.clear()
            written = False
            try:
                written = self._sign.step()
            except Exception:
                log.exception("The sign of life is not written.")
            if written:
                self._sign.wakeup.wait(WRITE_EVERY)
            else:
                self._ending.wait(WRITE_EVERY)
        self._sign.close()
