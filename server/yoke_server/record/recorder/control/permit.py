"""Who may move: permits are granted to requests, and renewed while somebody watches.

Nothing moves without a permit that holds. Stops come from any thread and wait for nothing here.
"""

import threading
from collections.abc import Callable
from dataclasses import dataclass
from datetime import UTC, datetime

from yoke_server.live.protocol import Phase
from yoke_server.record.recorder.model.permit import Permit
from yoke_server.record.recorder.model.phases import Refused

NEVER = datetime.min.replace(tzinfo=UTC)


@dataclass(frozen=True, slots=True)
class Latch:
    """An emergency stop that is in force: nothing moves until a person releases it.

    requested_at : by the database's clock
    by : who gave it, as people read it
    """

    requested_at: datetime
    by: str = ""


@dataclass(slots=True)
class Motion:
    """One motion of one actuator, from its order on."""

    actuator: str
    permit: Permit
    phases: frozenset[Phase]  # in which it may go on
    watched: Callable[[], str]  # why nobody sees what it does; empty while somebody does


class PermitControl:
    """Grants, renews and revokes the permits of a bench: at most one an actuator."""

    def __init__(self, monotonic: Callable[[], float]) -> None:
        self._monotonic = monotonic
        self._lock = threading.Lock()
        self._motions: dict[str, Motion] = {}  # by actuator
        self._newest_stop = NEVER  # when it was requested, by the database's clock
        self.latch: Latch | None = None

    def stop(self, requested_at: datetime, latch: Latch | None = None) -> None:
        """Revoke all permits; what was requested before this never gets one. From any thread."""
        with self._lock:
            self._newest_stop = max(self._newest_stop, requested_at)
            if latch and (self.latch is None or latch.requested_at < self.latch.requested_at):
                self.latch = latch
            for motion in self._motions.values():
                motion.permit.revoke()

    def require_releasable(self, requested_at: datetime) -> None:
        """Raise Refused where a stop came after this was requested."""
        if requested_at <= self._newest_stop:
            raise Refused("A stop was given meanwhile.", "Release it once more.")

    def release(self, requested_at: datetime) -> None:
        """Let things move again that are requested after this was; not if a stop came later."""
        with self._lock:
            if requested_at > self._newest_stop:
                self.latch = None
                self._newest_stop = requested_at

    def grant(self, motion: Motion, requested_at: datetime, deadline: float) -> None:
        """Let a motion begin.

        requested_at : when a person asked for it, by the database's clock
        deadline : monotonic; later it must not begin

        Raises Refused where a stop came after the request, or it is too late.
        """
        with self._lock:
            if self.latch:
                raise Refused("An emergency stop is in force.", "Release it, then try again.")
            if requested_at <= self._newest_stop:
                raise Refused("It was stopped before it began.", "Give the order again.")
            if self._monotonic() >= deadline:
                raise Refused("The order came too late.", "Give it again.")
            self._motions[motion.actuator] = motion

    def renew(self, phase: Phase, why_not: str) -> dict[str, str]:
        """Renew what may go on; why each of the others, by actuator, may not.

        why_not : what lets nothing move, empty if nothing
        """
        ended = {}
        for motion in list(self._motions.values()):
            motion.permit.renew(self._monotonic())
            in_phase = "" if phase in motion.phases else "what it was to do is over"
            if not motion.permit.holds(self._monotonic()):
                why = "it was stopped, or the recorder was held up"
            else:
                why = why_not or in_phase or motion.watched()
            if why:
                self.end(motion.actuator)
                ended[motion.actuator] = why
        return ended

    def motion_of(self, actuator: str) -> Motion | None:
        """What an actuator may do at present."""
        motion = self._motions.get(actuator)
        return motion if motion and motion.permit.holds(self._monotonic()) else None

    @property
    def moving(self) -> bool:
        """Whether anything may move at present."""
        return any(map(self.motion_of, list(self._motions)))

    def end(self, actuator: str) -> None:
        """An actuator may no longer move."""
        with self._lock:
            if motion := self._motions.pop(actuator, None):
                motion.permit.revoke()

    def end_all(self) -> None:
        for actuator in list(self._motions):
            self.end(actuator)
