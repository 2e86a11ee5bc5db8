"""The actuators of a bench: their states, and what each may do at present."""

import logging
from collections.abc import Callable
from dataclasses import dataclass
from datetime import datetime
from typing import NamedTuple, Protocol

from yoke_server.bench.drivers.base import Capability, FrameState
from yoke_server.bench.orders import OrderSpec
from yoke_server.bench.stops import StopRequested
from yoke_server.kinds.actions import Action
from yoke_server.kinds.motions.base import Motion as MotionSpec
from yoke_server.live.protocol import Latched, Phase
from yoke_server.record.recorder.control.permit import Latch, Motion, PermitControl
from yoke_server.record.recorder.model.events import OrderIn
from yoke_server.record.recorder.model.permit import Permit
from yoke_server.record.recorder.model.phases import RETURNS, Refused

log = logging.getLogger(__name__)

DATABASE_AWAY = 5.0  # s since the database was written to, after which nothing moves
AWAY_M = 5e-5  # from home; a pull begins at home
IN_RUN = frozenset({Phase.RECORDING})


class ActuatorPart(Protocol):
    """The port of an actuator, as the runner needs it."""

    def start(self) -> None: ...
    def finish(self) -> None: ...
    def begin(self, permit: Permit, action: Action) -> None: ...
    def adjust(self, permit: Permit, action: Action) -> None: ...
    def stop(self, token: str) -> None: ...
    def wake(self) -> None: ...


@dataclass(slots=True)
class BenchActuator:
    """One actuator as the runner sees it; ``state`` is None while it is not linked."""

    label: str
    port: ActuatorPart
    able: frozenset[Capability]
    state: FrameState | None = None

    @property
    def is_home(self) -> bool:
        return self.state is not None and abs(self.state.position_m) <= AWAY_M


@dataclass(frozen=True, slots=True)
class Authority:
    """By what something moves: when a person asked for it, and until when that holds.

    requested_at : by the database's clock; a stop that came later revokes it
    deadline : monotonic; later it must not begin
    """

    requested_at: datetime
    deadline: float


class ActuatorsState(NamedTuple):
    """As in `BenchState`: ``motion`` and ``position_m`` are the main actuator's."""

    motion: str
    position_m: float | None
    home: bool
    stopped_because: str
    latched: Latched | None


class Actuators:
    """All actuators of a bench, and the permits that they move under.

    unwritten_s : for how long the database has not been written to
    hears_stops : whether a stop that is given now is heard
    """

    def __init__(
        self,
        monotonic: Callable[[], float],
        unwritten_s: Callable[[], float],
        hears_stops: Callable[[], bool],
    ) -> None:
        self.permits = PermitControl(monotonic)
        self._monotonic = monotonic
        self._unwritten_s = unwritten_s
        self._hears_stops = hears_stops
        self._actuators: dict[str, BenchActuator] = {}
        self.stopped_because = ""  # why what moved last was stopped by the recorder itself
        self._waiting: dict[str, set[str]] = {}  # stops by key, and who has not confirmed them

    def add(self, label: str, port: ActuatorPart, able: frozenset[Capability]) -> None:
        if old := self._actuators.get(label):
            old.port.finish()
        self._actuators[label] = BenchActuator(label, port, able)
        port.start()

    def remove(self, label: str) -> None:
        """Stop it, and let go of it."""
        self.permits.end(label)
        if actuator := self._actuators.pop(label, None):
            actuator.port.finish()

    def finish(self) -> None:
        for label in list(self._actuators):
            self.remove(label)

    @property
    def main(self) -> BenchActuator | None:
        """The one that screens show large: the first by its label."""
        return self._actuators[min(self._actuators)] if self._actuators else None

    def set_state(self, label: str, state: FrameState | None) -> None:
        """Take over an actuator's state; one without a connection gets no permit."""
        if actuator := self._actuators.get(label):
            actuator.state = state
        if state is None:
            self.permits.end(label)

    # Moving

    def require_ready(self, motion: MotionSpec) -> BenchActuator:
        """The actuator for a setup's motion; raises Refused unless it may begin now."""
        actuator = self._fit_for(motion.needs)
        if actuator.state is None:
            raise Refused(f"{actuator.label} is not linked.", "Link it, then try again.")
        if actuator.state.moving or self.permits.motion_of(actuator.label):
            raise Refused("The actuator is moving.", "Wait until it stands, or stop it.")
        if not actuator.is_home:
            raise Refused("The actuator is not home.", "Return it first.")
        self._require_written()
        if self.permits.latch:
            raise Refused("An emergency stop is in force.", "Release it, then try again.")
        return actuator

    def _fit_for(self, needs: frozenset[Capability]) -> BenchActuator:
        for label in sorted(self._actuators):
            if needs <= self._actuators[label].able:
                return self._actuators[label]
        if self._actuators:
            raise Refused("No actuator of this bench can do this motion.", "Choose another.")
        raise Refused("This bench has no actuator.")

    def _require_written(self) -> None:
        if self._unwritten_s() > DATABASE_AWAY:
            raise Refused("The database takes nothing, so nobody could stop the actuator.")
        if not self._hears_stops():
            raise Refused("No stop can be heard just now.", "Try again in a second.")

    def begin_part(
        self,
        authority: Authority,
        needs: frozenset[Capability],
        name: str,
        action: Action,
        why_unseen: Callable[[], str],
    ) -> None:
        """Begin a part of a run's motion. Raises Refused unless it may."""
        actuator = self._fit_for(needs)
        if actuator.state is None:
            raise Refused(f"{actuator.label} is not linked.", "Link it, then try again.")
        if why := why_unseen():
            raise Refused(f"Nothing moves unseen: {why}.", "Try again once it is seen.")
        self._require_written()
        if self.permits.latch:
            raise Refused("An emergency stop is in force.", "Release it, then try again.")
        self._begin(actuator, authority, name, action, IN_RUN, why_unseen)

    def adjust(self, name: str, action: Action) -> None:
        """Change a motion that was begun under this name, if it still may go on."""
        for label in list(self._actuators):
            motion = self.permits.motion_of(label)
            if motion and motion.permit.motion_id == name:
                self._actuators[label].port.adjust(motion.permit, action)

    def is_permitted(self, name: str) -> bool:
        """Whether a motion that was begun under this name may go on."""
        found = [self.permits.motion_of(label) for label in list(self._actuators)]
        return any(m and m.permit.motion_id == name for m in found)

    def go_home(self, order: OrderIn[OrderSpec]) -> None:
        """Raises Refused unless it may."""
        actuator = self.main
        if actuator is None or actuator.state is None:
            raise Refused("The actuator is not linked.", "Link it, then try again.")
        self._require_written()
        authority = Authority(order.requested_at, order.deadline)
        self._begin(
            actuator, authority, order.key, lambda d: d.go_home(order.key), RETURNS, lambda: ""
        )

    def _begin(
        self,
        actuator: BenchActuator,
        authority: Authority,
        name: str,
        action: Action,
        phases: frozenset[Phase],
        why_unseen: Callable[[], str],
    ) -> None:
        permit = Permit(name, self._monotonic())
        motion = Motion(actuator.label, permit, phases, why_unseen)
        self.permits.grant(motion, authority.requested_at, authority.deadline)
        self.stopped_because = ""
        actuator.port.begin(permit, action)

    def tick(self, phase: Phase) -> None:
        """Renew what may go on; what may not is stopped."""
        unwritten = self._unwritten_s() > DATABASE_AWAY
        why_not = "the database takes nothing" if unwritten else ""
        for label, why in self.permits.renew(phase, why_not).items():
            log.warning("%s is stopped: %s.", label, why)
            self.stopped_because = why
            self._wake(label)
        self._end_returns()

    def _end_returns(self) -> None:
        """One that is home again needs no permit any more."""
        for actuator in self._actuators.values():
            motion, state = self.permits.motion_of(actuator.label), actuator.state
            if motion is None or state is None or motion.phases is not RETURNS:
                continue
            if state.motion_id == motion.permit.motion_id and not state.moving:
                self.permits.end(actuator.label)

    # Standing

    def stop_for(self, stop: StopRequested) -> None:
        """Stop actuators by a person's request; an emergency stop stays in force. Any thread."""
        latch = Latch(stop.requested_at, stop.by) if stop.emergency else None
        self.permits.stop(stop.requested_at, latch)
        for label in list(self._actuators):
            self._wake(label)

    def stop_all(self) -> None:
        """Revoke all permits: the ports have everything stand. From any thread."""
        self.permits.end_all()
        for label in list(self._actuators):
            self._wake(label)

    def _wake(self, label: str) -> None:
        if actuator := self._actuators.get(label):
            actuator.port.wake()

    def confirm_stop(self, key: str) -> bool:
        """Ask each actuator to confirm its stop; False if there is none to wait for."""
        if not self._actuators:
            return False
        self._waiting[key] = set(self._actuators)
        for actuator in list(self._actuators.values()):
            actuator.port.stop(key)
        return True

    def on_stopped(self, label: str, key: str, problem: str) -> str | None:
        """Take an actuator's answer to a stop: None while others must still give theirs, else
        what went wrong, or nothing."""
        waiting = self._waiting.get(key)
        if waiting is None:
            return None
        waiting.discard(label)
        if waiting and not problem:
            return None
        del self._waiting[key]
        return f"{label} did not confirm the stop: {problem}" if problem else ""

    def state(self) -> "ActuatorsState":
        """What screens are told."""
        main, latch = self.main, self.permits.latch
        state = main.state if main else None
        return ActuatorsState(
            motion=state.motion if state else "",
            position_m=state.position_m if state else None,
            home=main.is_home if main else False,
            stopped_because=self.stopped_because,
            latched=Latched(by=latch.by, at=latch.requested_at.isoformat()) if latch else None,
        )
