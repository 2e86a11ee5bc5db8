"""What moves on a bench: the actuator's state, its orders, and who watches it."""

import logging
from collections.abc import Callable
from typing import Any, Protocol

from yoke_server.bench.drivers.base import FrameState, MovingDriver
from yoke_server.record.recorder.model.phases import Refused

log = logging.getLogger(__name__)

DATABASE_AWAY = 5.0  # s without the database, and so without orders, after which nothing moves
AWAY_M = 5e-5  # from home; a pull begins at home


# By kind of motion, how a driver is told to begin it.
DEEDS: dict[str, Callable[[Any], Callable[[MovingDriver], None]]] = {
    "ramp": lambda m: lambda d: d.ramp(m.speed_m_s, m.travel_limit_m),
    "force_ramp": lambda m: lambda d: d.force_ramp(m.rate_n_s, m.peak_n),
    "force_sine": lambda m: lambda d: d.force_sine(m.lowest_n, m.highest_n, m.frequency_hz),
}


class ActuatorPart(Protocol):
    """The port of an actuator, as the runner needs it."""

    def start(self) -> None: ...
    def finish(self) -> None: ...
    def alive(self) -> None: ...
    def move(self, token: str, begin: Callable[[MovingDriver], None]) -> None: ...
    def home(self, token: str) -> None: ...
    def stop(self, token: str = "") -> None: ...


class Motion:
    """The bench's actuator, if it has one.

    ``orders_away_s`` says for how long no order could have come.
    """

    def __init__(self, orders_away_s: Callable[[], float]) -> None:
        self._orders_away_s = orders_away_s
        self._actuator: ActuatorPart | None = None
        self.label = ""
        self.state: FrameState | None = None  # None: not linked
        self._seen_moving: FrameState | None = None
        self.waiting: set[str] = set()  # orders to be answered when the actuator has stopped

    def have(self, label: str, actuator: ActuatorPart) -> None:
        self.label, self._actuator = label, actuator
        actuator.start()

    def finish(self) -> None:
        """Stop, and let go of the actuator."""
        if self._actuator:
            self._actuator.finish()
        self._actuator = self.state = None

    def alive(self) -> None:
        if self._actuator:
            self._actuator.alive()

    @property
    def moving(self) -> bool:
        return self.state is not None and self.state.moving

    @property
    def pulling(self) -> bool:
        return self.moving and self.state is not None and self.state.motion != "RETURN"

    @property
    def home(self) -> bool:
        return self.state is not None and abs(self.state.position_m) <= AWAY_M

    def require_ready(self) -> None:
        """Raise Refused unless a pull may begin."""
        if self._actuator is None:
            raise Refused("This bench has no actuator.")
        if self.state is None:
            raise Refused("The actuator is not linked.", "Link it, then try again.")
        if self.moving:
            raise Refused("The actuator is moving.", "Wait until it stands, or stop it.")
        if not self.home:
            raise Refused("The actuator is not home.", "Return it first.")
        self._require_orders()

    def _require_orders(self) -> None:
        if self._orders_away_s() > DATABASE_AWAY:
            raise Refused("The database is away, so nobody could stop the actuator.")

    def begin(self, token: str, motion: Any) -> None:
        """Begin a setup's motion. Raises Refused unless it may."""
        self.require_ready()
        assert self._actuator is not None
        self._actuator.move(token, DEEDS[motion.kind](motion))

    def go_home(self, token: str) -> None:
        """Raises Refused unless it may."""
        if self._actuator is None or self.state is None:
            raise Refused("The actuator is not linked.", "Link it, then try again.")
        self._require_orders()
        self._actuator.home(token)

    def stop(self) -> None:
        if self._actuator:
            self._actuator.stop()

    def stop_for(self, token: str) -> bool:
        """Stop for an order, which is answered later; False if there is nothing to wait for."""
        if self._actuator is None:
            return False
        self.waiting.add(token)
        self._actuator.stop(token)
        return True

    def watch(self, unwatched: str) -> None:
        """Stop what moves while nobody could stop it or, pulling, nobody sees what it does."""
        if not self.moving or self.state is self._seen_moving:
            return
        why = "The database is away" if self._orders_away_s() > DATABASE_AWAY else ""
        if self.pulling and unwatched:
            why = why or unwatched
        if why:
            log.warning("%s: the actuator is stopped.", why)
            self._seen_moving = self.state  # told once each time that it is seen to move
            self.stop()

    def facts(self) -> dict[str, Any]:
        return {
            "motion": self.state.motion if self.state else "",
            "position_m": self.state.position_m if self.state else None,
            "home": self.home,
        }
