"""The stand-in of an actuator: moves as told, or lies, refuses, comes late; and its driver."""

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

from yoke_server.bench.drivers.base import (
    ControlRefused,
    DriverError,
    FrameState,
    Identity,
    LinkBroken,
    Refusal,
)

from tests.simulation.virtual import IDENTITY

if TYPE_CHECKING:
    from tests.simulation.stage import Stage

HEARTBEAT = 1.0
STIFFNESS = 4e6  # N/m, of what it pulls by its travel
LOADING = ("FORCE", "SINE", "PLAY")
PULLING = ("RAMP", *LOADING)


@dataclass(eq=False)
class StandInActuator:
    """Holds without a heartbeat or without its host, whatever else is wrong with it."""

    stage: "Stage"
    label: str = "frame"
    motion: str = "HOLD"  # what it really does
    motion_id: str = ""
    position_m: float = 0.0
    cause: str = ""
    began_at: float = 0.0
    heard_at: float = 0.0
    host: object = None
    reachable: bool = True
    # Faults
    refuses_stop: bool = False
    refuses_trim: bool = False
    lies: bool = False  # says that it holds, whatever it does
    nan: bool = False
    mute: bool = False  # takes commands and answers none in time
    late_s: float = 0.0  # from an order to the motion
    answers_s: float = 0.0  # until it answers
    loads_s: float = 1.0
    swing: tuple[float, float, float] = (0.0, 0.0, 1.0)
    lasts_s: float = math.inf  # that a wave swings
    kept_n: float | None = None  # force at which it stays, once it has arrived there
    stays: bool = False  # at the end of a ramp of force, rather than go back to none
    gain: float = 1.0  # of a swing
    table: list[float] = field(default_factory=lambda: [0.0])  # N, that it plays
    points_hz: float = 1.0
    rounds: int = 1
    begin_s: float = 0.0
    outputs: dict[int, bool] = field(default_factory=dict)
    foreign: bool = False  # another host controls it
    _begins: tuple[float, str, str] | None = None
    _moved_to: float = 0.0

    @property
    def is_pulling(self) -> bool:
        return self.motion in PULLING

    def begin(self, motion: str, motion_id: str) -> None:
        """As ordered: at once, or a moment late."""
        now = self.stage.clock.now
        self.stage.note_motion(self, motion, motion_id)
        if self.late_s:
            self._begins = now + self.late_s, motion, motion_id
        else:
            self._start(motion, motion_id)

    def _start(self, motion: str, motion_id: str) -> None:
        self.kept_n = None
        self.motion, self.motion_id, self.cause = motion, motion_id, ""
        self.began_at = self._moved_to = self.stage.clock.now

    def advance(self) -> None:
        """Let it have moved until now."""
        now = self.stage.clock.now
        if self._begins and now >= self._begins[0]:
            _, motion, motion_id = self._begins
            self._begins = None
            self._start(motion, motion_id)
        if (self.motion != "HOLD" or self._begins) and now - self.heard_at > HEARTBEAT:
            self._hold("no heartbeat")
        seconds, self._moved_to = now - self._moved_to, now
        if self.motion == "RAMP":
            self.position_m += 2e-4 * seconds
        elif self.motion == "RETURN":
            self.position_m = max(0.0, self.position_m - 5e-3 * seconds)
            if self.position_m == 0:
                self._hold("arrived")
        elif self.motion in LOADING and now - self.began_at > self.lasts_s:
            ends = {
                "FORCE": self.swing[1] * self.stays,
                "SINE": sum(self.swing[:2]) / 2,
                "PLAY": self.table[-1],
            }
            self.kept_n = ends[self.motion]
            self._hold("arrived")

    def _hold(self, cause: str) -> None:
        self.motion, self.cause, self._begins = "HOLD", cause, None

    def force_at(self, time: float) -> float:
        """N; of a ramp what its travel does, else what it is told to do."""
        since = max(0.0, time - self.began_at)
        if self.motion == "FORCE" and self.stays:
            begin, end, _ = self.swing
            return begin + (end - begin) * min(1.0, since / max(self.lasts_s, 1e-9))
        if self.motion == "FORCE":
            peak = self.swing[1]
            return peak * max(0.0, 1 - abs(since - self.loads_s) / self.loads_s)
        if self.motion == "SINE":
            low, high, frequency = self.swing
            return (low + high) / 2 - self.gain * (high - low) / 2 * math.cos(
                math.tau * frequency * since
            )
        if self.motion == "PLAY":
            forces, rate_hz, begin_s = self.table, self.points_hz, self.begin_s
            place = max(0.0, since + begin_s) * rate_hz
            return forces[min(int(place), self.rounds * len(forces) - 1) % len(forces)]
        return STIFFNESS * self.position_m if self.kept_n is None else self.kept_n

    def leave(self, host: object) -> None:
        if self.host is host:
            self.host = None
            self._hold("its host left")


class StandInDriver:
    """A connection to the stand-in actuator."""

    capabilities = frozenset()

    def __init__(self, actuator: StandInActuator) -> None:
        self._actuator = actuator
        self._open = False

    def _hear(self, *, control: bool = True) -> StandInActuator:
        actuator = self._actuator
        actuator.advance()
        if not actuator.reachable or not self._open:
            raise LinkBroken("the connection to the device broke.")
        if control and not self._take():
            raise Refusal("another host controls it.")
        if actuator.host is self:
            actuator.heard_at = actuator.stage.clock.now
        actuator.stage.scheduler.sleep(0.002)
        return actuator

    def _take(self) -> bool:
        """Who gives a command controls it, unless somebody else does."""
        if self._actuator.host is None and not self._actuator.foreign:
            self._actuator.host = self
        return self._actuator.host is self

    def _done(self) -> None:
        self._actuator.stage.scheduler.sleep(self._actuator.answers_s)
        if self._actuator.mute:
            self._actuator.stage.scheduler.sleep(0.5)
            raise LinkBroken("the device does not answer in time.")

    def connect(self) -> Identity:
        if not self._actuator.reachable:
            raise DriverError("nothing answers.")
        self._open = True
        return IDENTITY

    def close(self) -> None:
        self._open = False
        self._actuator.advance()
        if self._actuator.reachable:
            self._actuator.leave(self)

    def take_control(self, host: str) -> None:
        if self._actuator.foreign:
            raise ControlRefused("the other computer controls it.")
        self._actuator.host = self
        self._hear()

    def ramp(self, motion_id: str, speed_m_s: float, target_m: float) -> None:
        self._hear().begin("RAMP", motion_id)
        self._done()

    def force_ramp(self, motion_id: str, rate_n_s: float, peak_n: float) -> None:
        actuator = self._hear()
        actuator.loads_s, actuator.swing = peak_n / rate_n_s, (0.0, peak_n, 1.0)
        actuator.lasts_s, actuator.stays = 2 * actuator.loads_s, False
        actuator.begin("FORCE", motion_id)
        self._done()

    def force_sine(
        self, motion_id: str, lowest_n: float, highest_n: float, frequency_hz: float
    ) -> None:
        actuator = self._hear()
        if highest_n > 20e3:
            raise Refusal("force outside the force limit.")
        actuator.swing, actuator.lasts_s = (lowest_n, highest_n, frequency_hz), math.inf
        actuator.begin("SINE", motion_id)
        self._done()

    def force_to(self, motion_id: str, rate_n_s: float, force_n: float) -> None:
        actuator = self._hear()
        now = actuator.force_at(actuator.stage.clock.now)
        actuator.swing, actuator.lasts_s = (now, force_n, 1.0), abs(force_n - now) / rate_n_s
        actuator.stays = True
        actuator.begin("FORCE", motion_id)
        self._done()

    def force_wave(
        self,
        motion_id: str,
        shape: str,
        lowest_n: float,
        highest_n: float,
        frequency_hz: float,
        cycles: int,
    ) -> None:
        actuator = self._hear()
        actuator.swing = (lowest_n, highest_n, frequency_hz)
        actuator.lasts_s = (cycles + 1) / frequency_hz
        actuator.begin("SINE", motion_id)
        self._done()

    def trim(self, lowest_n: float, highest_n: float) -> None:
        actuator = self._hear()
        if actuator.refuses_trim or actuator.motion != "SINE":
            raise Refusal("it does not swing.")
        actuator.swing = (lowest_n, highest_n, actuator.swing[2])
        self._done()

    def play(
        self,
        motion_id: str,
        forces_n: Sequence[float],
        rate_hz: float,
        rounds: int,
        begin_s: float,
    ) -> None:
        actuator = self._hear()
        actuator.table, actuator.points_hz = list(forces_n), rate_hz
        actuator.rounds, actuator.begin_s = rounds, begin_s
        actuator.lasts_s = rounds * len(forces_n) / rate_hz - begin_s
        actuator.begin("PLAY", motion_id)
        self._done()

    def switch(self, motion_id: str, output: int, on: bool) -> None:
        actuator = self._hear()
        actuator.outputs[output] = on
        actuator.motion_id, actuator.cause = motion_id, "arrived"
        self._done()

    def go_home(self, motion_id: str) -> None:
        self._hear().begin("RETURN", motion_id)
        self._done()

    def stop(self) -> None:
        actuator = self._hear(control=False)
        if actuator.refuses_stop:
            raise Refusal("it is busy.")
        if actuator.motion != "HOLD" or actuator._begins:
            actuator._hold("told to")
        self._done()

    def state(self) -> FrameState:
        actuator = self._hear(control=False)
        self._done()
        if actuator.nan:
            raise LinkBroken("the load frame's state makes no sense: “HOLD,nan”.")
        motion = "HOLD" if actuator.lies else actuator.motion
        return FrameState(motion, actuator.position_m, actuator.cause, actuator.motion_id)
