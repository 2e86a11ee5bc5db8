"""The port of one actuator: a thread that sends its commands and reads its state.

It moves, and gives signs of life, only under a permit that holds and that names the motion.
Without one it stops the actuator, regardless of the state that the actuator reports; where that
is not confirmed it falls silent and closes the link, so that the actuator holds by its own
heartbeat.
"""

import logging
import threading
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass

from yoke_server.bench.drivers.base import (
    AddressUnknown,
    ControlRefused,
    MovingDriver,
    Refusal,
)
from yoke_server.record.recorder.model.clock import Clock
from yoke_server.record.recorder.model.events import (
    ActuatorCommandFinished,
    ActuatorConnected,
    ActuatorLost,
    ActuatorState,
    Event,
)
from yoke_server.record.recorder.model.permit import Permit
from yoke_server.record.recorder.ports.faults import why_lost

log = logging.getLogger(__name__)

LOOK_EVERY = 0.2  # s under a permit, well within any heartbeat
LOOK_AT_REST = 1.0  # s; screens hear of it so often
RETRY = 1.0  # s between tries to connect
SLOW_RETRY = 30.0  # s, to an address that is none
SILENT = 3.0  # s without a word to an actuator that did not confirm its stop
BEGIN, STOP = "begin", "stop"
Action = Callable[[MovingDriver], None]


@dataclass(frozen=True, slots=True)
class _Order:
    permit: Permit
    begin: Action
    adjusts: bool = False  # a motion that is under way; where it is over, nothing is amiss


class ActuatorPort:
    """Commands go in from any thread; what became of them comes out as events."""

    def __init__(
        self,
        label: str,
        host_name: str,
        make: Callable[[], MovingDriver],
        clock: Clock,
        emit: Callable[[Event], None],
    ) -> None:
        self.label = label
        self._host_name = host_name
        self._make = make
        self._clock = clock
        self._emit = emit
        self._wake = threading.Condition()
        self._orders: deque[_Order] = deque()
        self._stops: list[str] = []  # tokens of stops that are to be confirmed
        self._woken = False
        self._ending = False
        self._ended = False
        self._driver: MovingDriver | None = None
        self._permit: Permit | None = None  # of what moves
        self._retry_at = 0.0
        self._silent_until = 0.0
        self._thread = threading.Thread(target=self._run, name=f"actuator-{label}", daemon=True)

    def start(self) -> None:
        self._thread.start()

    def finish(self) -> None:
        """Stop the actuator, close its link and end the thread."""
        with self._wake:
            self._stops.append("")
            self._ending = True
            self._notify()
        self._thread.join(timeout=5)

    # From any thread

    def begin(self, permit: Permit, action: Action) -> None:
        """Begin a motion, if its permit still holds when its turn comes."""
        with self._wake:
            self._orders.append(_Order(permit, action))
            self._notify()

    def adjust(self, permit: Permit, action: Action) -> None:
        """Change the motion that moves under a permit, if it still does; nobody is told."""
        with self._wake:
            self._orders.append(_Order(permit, action, adjusts=True))
            self._notify()

    def stop(self, token: str) -> None:
        """Request a confirmed stop of the actuator; its permit must have been revoked."""
        with self._wake:
            self._stops.append(token)
            self._notify()

    def wake(self) -> None:
        """A permit was revoked: look at once."""
        with self._wake:
            self._notify()

    def _notify(self) -> None:
        self._woken = True
        self._wake.notify()

    # The thread

    def _run(self) -> None:
        while not self._ended:
            with self._wake:
                if not self._woken:
                    self._wake.wait(self.patience)
            self.step()

    @property
    def patience(self) -> float:
        """s until the next look, if nobody wakes it."""
        return LOOK_EVERY if self._permit else LOOK_AT_REST

    def step(self) -> None:
        """Do what waits, then look; never waits for anything but the actuator."""
        with self._wake:
            self._woken = False
            stops, self._stops = self._stops, []
            orders, self._orders = self._orders, deque()
            ending = self._ending
        for order in orders:
            self._carry_out(order)
        if self._may_move() and not stops:
            self._look()
        else:
            self._stand_still(stops)
        if ending:
            self._close()
            self._ended = True

    def _may_move(self) -> bool:
        if self._permit and not self._permit.holds(self._clock.monotonic()):
            self._permit = None
        return self._permit is not None

    def _carry_out(self, order: _Order) -> None:
        permit = order.permit
        if not permit.holds(self._clock.monotonic()):
            problem = "it was stopped before."
        else:
            problem = self._do(order.begin)
        if order.adjusts:
            if problem:
                log.info("%s was not adjusted: %s", self.label, problem)
            return
        if not problem:
            self._permit = permit
        self._emit(ActuatorCommandFinished(self.label, BEGIN, permit.motion_id, problem))

    def _stand_still(self, tokens: list[str]) -> None:
        """Nothing may move: that is said with each look, and not concluded from what it says."""
        self._end_permit()
        now = self._clock.monotonic()
        quiet = now < self._silent_until or (self._driver is None and now < self._retry_at)
        if quiet and not tokens:
            return
        problem = self._do(lambda d: d.stop(), without_control=bool(tokens))
        if problem and self._driver:  # it is there, and did not confirm
            self._fall_silent(problem)
        for token in filter(None, tokens):
            self._emit(ActuatorCommandFinished(self.label, STOP, token, problem))
        if not problem:
            self._look()

    def _fall_silent(self, problem: str) -> None:
        log.error("%s does not confirm its stop: %s", self.label, problem)
        self._lose(f"it does not confirm its stop: {problem}")
        self._silent_until = self._clock.monotonic() + SILENT

    def _look(self) -> None:
        """Read the state; a motion under another name than the permit's is stopped."""
        self._do(self._see)

    def _see(self, driver: MovingDriver) -> None:
        state = driver.state()
        self._emit(ActuatorState(self.label, state))
        if self._permit and state.moving and state.motion_id != self._permit.motion_id:
            log.error("%s moves by “%s”, which nobody permits.", self.label, state.motion_id)
            self._permit.revoke()
            self.wake()

    def _do(self, action: Action, *, without_control: bool = False) -> str:
        """Carry out; empty, or why it was not."""
        try:
            action(self._connected(without_control))
        except Refusal as refusal:
            return str(refusal)
        except Exception as error:
            why = why_lost(error, self.label)
            self._lose(why, SLOW_RETRY if isinstance(error, AddressUnknown) else RETRY)
            return why
        return ""

    def _connected(self, without_control: bool) -> MovingDriver:
        if self._driver is None:
            self._driver = self._connect(without_control)
        return self._driver

    def _connect(self, without_control: bool) -> MovingDriver:
        driver = self._make()
        try:
            identity = driver.connect()
            driver.take_control(self._host_name)
        except ControlRefused as refused:
            if not without_control:
                driver.close()
                raise
            driver.stop()  # which is everybody's
            driver.close()
            raise ControlRefused(f"{refused} It confirmed the stop all the same.") from refused
        except Exception:
            driver.close()
            raise
        self._emit(ActuatorConnected(self.label, identity))
        return driver

    def _lose(self, why: str, retry_s: float = RETRY) -> None:
        self._close()
        self._retry_at = self._clock.monotonic() + retry_s
        self._emit(ActuatorLost(self.label, why))

    def _end_permit(self) -> None:
        if self._permit:
            self._permit.revoke()
        self._permit = None

    def _close(self) -> None:
        self._end_permit()
        if self._driver:
            self._driver.close()
        self._driver = None
