"""The stand-in of a load frame."""

from dataclasses import dataclass
from typing import TYPE_CHECKING

from yoke_server.bench.drivers.base import DriverError, FrameState, Identity, Refusal

from tests.simulation.virtual import IDENTITY

if TYPE_CHECKING:
    from tests.simulation.stage import Stage

HEARTBEAT = 1.0


@dataclass(eq=False)
class StandInFrame:
    """The load frame: moves as told, holds without a heartbeat or without its host."""

    stage: "Stage"
    motion: str = "HOLD"
    position_m: float = 0.0
    reachable: bool = True
    heard_at: float = 0.0
    host: object = None
    loads_until: float = 0.0
    cause: str = ""
    late_s: float = 0.0  # from an order to the motion
    _begins: tuple[float, str] | None = None

    def begin(self, motion: str) -> None:
        """As ordered: at once, or a moment late."""
        if self.late_s:
            self._begins = self.stage.clock.now + self.late_s, motion
        else:
            self.motion = motion
        self.stage.moves += 1

    def pass_time(self, seconds: float) -> None:
        if self._begins and self.stage.clock.now >= self._begins[0]:
            self.motion, self._begins = self._begins[1], None
        if self.motion == "RAMP":
            self.position_m += 2e-4 * seconds
        elif self.motion == "RETURN":
            self.position_m = max(0.0, self.position_m - 5e-3 * seconds)
            if self.position_m == 0:
                self.motion = "HOLD"
        elif self.motion == "FORCE" and self.stage.clock.now >= self.loads_until:
            self.motion, self.cause = "HOLD", "arrived"
        if self.stage.clock.now - self.heard_at > HEARTBEAT:
            self.motion, self.cause = "HOLD", "no heartbeat"


class FrameDriver:
    """A connection to the stand-in frame."""

    capabilities = frozenset()

    def __init__(self, frame: StandInFrame) -> None:
        self._frame = frame

    def _hear(self) -> StandInFrame:
        if not self._frame.reachable or self._frame.host is not self:
            raise DriverError("the connection to the device broke.")
        self._frame.heard_at = self._frame.stage.clock.now
        return self._frame

    def connect(self) -> Identity:
        if not self._frame.reachable:
            raise DriverError("nothing answers.")
        return IDENTITY

    def close(self) -> None:
        if self._frame.host is self:
            self._frame.host, self._frame.motion = None, "HOLD"

    def take_control(self, host: str) -> None:
        self._frame.host = self
        self._hear()

    def ramp(self, speed_m_s: float, target_m: float) -> None:
        self._hear().begin("RAMP")

    def force_ramp(self, rate_n_s: float, peak_n: float) -> None:
        frame = self._hear()
        frame.loads_until = frame.stage.clock.now + 2 * peak_n / rate_n_s
        frame.begin("FORCE")

    def force_sine(self, lowest_n: float, highest_n: float, frequency_hz: float) -> None:
        if highest_n > 20e3:
            raise Refusal("force outside the force limit.")
        self._hear().begin("SINE")

    def go_home(self) -> None:
        self._hear().motion = "RETURN"

    def stop(self) -> None:
        frame = self._hear()
        frame.motion, frame.cause, frame._begins = "HOLD", "told to", None

    def state(self) -> FrameState:
        frame = self._hear()
        return FrameState(frame.motion, frame.position_m, frame.cause)
