"""The recorder's hand on an actuator, in a thread of its own. Stop comes before all else.

It gives signs of life only while the runner gives them, and stops by itself when the runner
has fallen silent; without signs of life the actuator holds by its own heartbeat.
"""

import logging
import threading
from collections import deque
from collections.abc import Callable

from yoke_server.bench.drivers.base import FrameState, MovingDriver, Refusal
from yoke_server.record.recorder.model.clock import Clock
from yoke_server.record.recorder.model.events import (
    ActuatorCommandFinished,
    ActuatorConnected,
    ActuatorLost,
    ActuatorState,
    Event,
)
from yoke_server.record.recorder.ports.faults import why_lost

log = logging.getLogger(__name__)

LOOK_EVERY = 0.2  # s while it moves, well within any heartbeat
LOOK_AT_REST = 1.0  # s; screens hear of it so often
RETRY = 1.0  # s between tries to connect
RUNNER_SILENT = 0.8  # s without a sign of life from the runner
Deed = Callable[[MovingDriver], None]


class ActuatorPort:
    """Orders go in from the runner's thread; what became of them comes out as events."""

    def __init__(
        self,
        host_name: str,
        make: Callable[[], MovingDriver],
        clock: Clock,
        emit: Callable[[Event], None],
    ) -> None:
        self._host_name = host_name
        self._make = make
        self._clock = clock
        self._emit = emit
        self._wake = threading.Condition()
        self._orders: deque[tuple[str, str, Deed]] = deque()
        self._stops: list[str] = []  # tokens of stops not yet told to the actuator
        self._ending = False
        self._ended = False
        self._alive_at = 0.0
        self._driver: MovingDriver | None = None
        self._moving = False
        self._retry_at = 0.0
        self._thread = threading.Thread(target=self._run, name="actuator", daemon=True)

    def start(self) -> None:
        self._alive_at = self._clock.monotonic()
        self._thread.start()

    def finish(self) -> None:
        """Stop the actuator and end the thread."""
        with self._wake:
            self._orders.clear()
            self._stops.append("")
            self._ending = True
            self._wake.notify()
        self._thread.join(timeout=5)

    # From the runner's thread

    def alive(self) -> None:
        """The runner lives and watches."""
        self._alive_at = self._clock.monotonic()

    def move(self, token: str, begin: Deed) -> None:
        self._put("move", token, begin)

    def home(self, token: str) -> None:
        self._put("home", token, lambda d: d.go_home())

    def stop(self, token: str = "") -> None:
        """Before whatever else waits, and instead of it."""
        with self._wake:
            dropped, self._orders = self._orders, deque()
            self._stops.append(token)
            self._wake.notify()
        for deed, waiting, _ in dropped:
            self._emit(ActuatorCommandFinished(deed, waiting, "it was stopped before."))

    def _put(self, deed: str, token: str, act: Deed) -> None:
        with self._wake:
            self._orders.append((deed, token, act))
            self._wake.notify()

    # The thread

    def _run(self) -> None:
        while not self._ended:
            with self._wake:
                if not (self._stops or self._orders or self._ending):
                    self._wake.wait(LOOK_EVERY if self._moving else LOOK_AT_REST)
            self.step()

    def step(self) -> None:
        """Do what waits, stops first, then look; never waits for anything but the actuator."""
        with self._wake:
            stops, self._stops = self._stops, []
            order = None if stops or not self._orders else self._orders.popleft()
            ending = self._ending
        self._turn(stops, order)
        if ending:
            if self._driver:
                self._driver.close()
            self._ended = True

    def _turn(self, stops: list[str], order: tuple[str, str, Deed] | None) -> None:
        if stops:
            problem = self._do(lambda d: d.stop())
            for token in stops:
                self._emit(ActuatorCommandFinished("stop", token, problem))
        elif order:
            deed, token, act = order
            self._emit(ActuatorCommandFinished(deed, token, self._do(act)))
        self._look()
        if order and self._driver:
            self._moving = True  # it may begin a moment later: the next look comes soon enough

    def _look(self) -> None:
        """Refresh the state, which is also the sign of life; or stop, if nobody watches."""
        now = self._clock.monotonic()
        if now - self._alive_at > RUNNER_SILENT:
            if self._moving:
                log.error("The runner is silent: the actuator is stopped.")
                self._do(lambda d: d.stop())
            return
        if self._driver is None and now < self._retry_at:
            return
        self._do(self._see)

    def _see(self, driver: MovingDriver) -> None:
        state: FrameState = driver.state()
        self._moving = state.moving
        self._emit(ActuatorState(state))

    def _do(self, act: Deed) -> str:
        """Carry out; empty, or why it was not."""
        try:
            act(self._need())
        except Refusal as refusal:
            return str(refusal)
        except Exception as error:
            why = why_lost(error, "the actuator")
            self._lose(why)
            return why
        return ""

    def _need(self) -> MovingDriver:
        if self._driver is None:
            driver = self._make()
            try:
                identity = driver.connect()
                driver.take_control(self._host_name)
            except Exception:
                driver.close()
                raise
            self._driver = driver
            self._emit(ActuatorConnected(identity))
        return self._driver

    def _lose(self, why: str) -> None:
        if self._driver:
            self._driver.close()
        self._driver = None
        self._moving = False
        self._retry_at = self._clock.monotonic() + RETRY
        self._emit(ActuatorLost(why))
