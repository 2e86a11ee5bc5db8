"""A load frame's or actuator's drive: ramp, load, hold, return, stop, limits, heartbeat."""

import math
from collections.abc import Callable
from dataclasses import dataclass, field, fields
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


class Motion(StrEnum):
    HOLD = "HOLD"
    RAMP = "RAMP"
    FORCE = "FORCE"
    SINE = "SINE"
    PLAY = "PLAY"
    RETURN = "RETURN"
    TRIPPED = "TRIPPED"


LOADING = (Motion.FORCE, Motion.SINE, Motion.PLAY)
MOVING = (Motion.RAMP, *LOADING, Motion.RETURN)
HIGHEST_FREQUENCY = 20.0  # Hz
STEEPEST = 1e5  # N/s
MAX_TABLE = 20_000
OUTPUTS = 2
SHAPES: dict[str, Callable[[Array], Array]] = {
    "SINE": np.sin,
    "TRIANGLE": lambda phase: 2 / math.pi * np.arcsin(np.sin(phase)),
    "TRAPEZOID": lambda phase: np.clip(4 / math.pi * np.arcsin(np.sin(phase)), -1.0, 1.0),
}
BEGINNING = 1.0  # s in which a sine goes to its middle, and in which it swells


@dataclass(slots=True)
class Crosshead:
    """Position in m, speeds in m/s, forces in N; a limit passed while driving trips it.

    While it moves it wants to hear from its host every ``heartbeat`` seconds; else it holds.
    ``cause`` says why it last came to stand.
    """

    position: float = 0.0
    motion: Motion = Motion.HOLD
    speed: float = 0.0
    target: float = 0.0
    lowest: float = -5e-3
    highest: float = 25e-3
    force_limit: float = 24e3
    return_speed: float = 5e-3
    heartbeat: float = 1.0
    cause: str = "never moved"
    motion_id: str = ""  # of the motion that it last began, as its host named it
    controls_force: bool = False
    force: float = 0.0
    _peak: float = 0.0
    _rate: float = 0.0
    _sine: tuple[float, float, float] = (0.0, 0.0, 1.0)
    _since: float = 0.0  # s since a loading began
    _from: float = 0.0  # N, where it began
    _returns: bool = True  # after a ramp, to no load
    _shape: str = "SINE"
    _lasts: float = math.inf  # s that a wave swings at its whole size
    keeps_force: bool = False  # standing at the end of a loading, which it was to stay at
    table: list[float] = field(default_factory=list)  # N, that it may be told to play
    _played_table: Array = field(default_factory=lambda: np.zeros(2))
    _play: tuple[float, int, float] = (1.0, 1, 0.0)  # points per s, rounds, s to begin at
    gain: float = 1.0  # of a swing, which a real actuator loses as it warms up
    outputs: list[bool] = field(default_factory=lambda: [False] * OUTPUTS)

    def reset(self) -> None:
        """As switched on; the limits of its make stay."""
        kept = ("lowest", "highest", "force_limit", "controls_force")
        fresh = type(self)()
        for one in fields(self):
            if one.name not in kept:
                setattr(self, one.name, getattr(fresh, one.name))

    @property
    def loads(self) -> bool:
        """Whether a force, not a travel, is what it is told."""
        return self.motion in LOADING or self.keeps_force

    def ramp(self, speed: float, target: float) -> None:
        """Move to ``target``; raises ValueError if it lies outside the travel limits."""
        if not self.lowest <= target <= self.highest:
            raise ValueError("target outside the travel limits")
        if not 0 < speed <= self.return_speed:
            raise ValueError("speed outside 0 to 5 mm/s")
        self.motion, self.speed, self.target = Motion.RAMP, speed, target
        self.keeps_force = False

    def load(self, rate: float, peak: float) -> None:
        """Go to a force at an even rate, and back to none; raises ValueError if it cannot."""
        self._need_force(peak)
        if not 0 < rate <= STEEPEST:
            raise ValueError("rate outside 0 to 100 kN/s")
        self._begin(Motion.FORCE)
        self._peak, self._rate, self._returns = peak, rate, True

    def load_to(self, rate: float, force: float) -> None:
        """Go to a force at an even rate, and stay there; raises ValueError if it cannot."""
        self.load(rate, force)
        self._returns = False

    def swing(self, lowest: float, highest: float, frequency: float) -> None:
        """Between two forces in a sine, until stopped; raises ValueError if it cannot."""
        self._need_force(lowest, highest)
        if not lowest < highest:
            raise ValueError("lowest force not below highest")
        if not 0 < frequency <= HIGHEST_FREQUENCY:
            raise ValueError("frequency outside 0 to 20 Hz")
        self._begin(Motion.SINE)
        self._sine = (lowest, highest, frequency)
        self._shape, self._lasts = "SINE", math.inf

    def wave(
        self, shape: str, lowest: float, highest: float, frequency: float, cycles: float
    ) -> None:
        """So many cycles between two forces, then stay at their middle; raises ValueError if it
        cannot."""
        if shape not in SHAPES:
            raise ValueError(f"no shape {shape}; known are {', '.join(SHAPES)}")
        if not cycles >= 1:
            raise ValueError("less than one cycle")
        self.swing(lowest, highest, frequency)
        self._shape, self._lasts = shape, cycles / frequency

    def trim(self, lowest: float, highest: float) -> None:
        """Other ends of the swing that is under way; raises ValueError if it cannot."""
        self._need_force(lowest, highest)
        if self.motion is not Motion.SINE:
            raise ValueError("it does not swing")
        if not lowest < highest:
            raise ValueError("lowest force not below highest")
        self._sine = (lowest, highest, self._sine[2])

    def take(self, forces: list[float]) -> None:
        """More of the table; raises ValueError where it would hold too many."""
        if len(self.table) + len(forces) > MAX_TABLE:
            raise ValueError(f"more than {MAX_TABLE} forces")
        self.table = [*self.table, *forces]

    def play(self, rate: float, rounds: float, begin: float) -> None:
        """The table, so many points per second and rounds, from a time on (below nothing: it
        waits at its beginning); then stay at its end. Raises ValueError if it cannot."""
        if len(self.table) < 2:
            raise ValueError("no table to play")
        self._need_force(*self.table)
        if not (0 < rate <= 1e3 and rounds >= 1 and begin >= -10):
            raise ValueError("rate outside 0 to 1000 points per second, or no round")
        closed = [*self.table, self.table[0]] if rounds > 1 else self.table
        if np.abs(np.diff(closed)).max() * rate > STEEPEST:
            raise ValueError("the table has a jump steeper than 100 kN/s")
        self._begin(Motion.PLAY)
        self._played_table = np.array(self.table)
        self._play = (rate, int(rounds), begin)

    def switch(self, output: float, on: float) -> None:
        """Set an output; done at once, and nothing moves. Raises ValueError for one it lacks."""
        if not 1 <= output <= OUTPUTS:
            raise ValueError(f"no output {output:g}")
        if self.motion in MOVING:
            raise ValueError("it is moving")
        self.outputs[int(output) - 1] = bool(on)

    def _need_force(self, *forces: float) -> None:
        if not self.controls_force:
            raise ValueError("this frame controls its travel only")
        if max(map(abs, forces)) > self.force_limit:
            raise ValueError("force outside the force limit")

    def _begin(self, motion: Motion) -> None:
        self.motion, self._since, self._from = motion, 0.0, self.force
        self.keeps_force = False

    def go_home(self) -> None:
        self.motion, self.speed, self.target = Motion.RETURN, self.return_speed, 0.0
        self.keeps_force = False

    def name(self, motion_id: str) -> None:
        """What the host calls the motion that has just begun; why it stood before is past."""
        self.motion_id, self.cause = motion_id, ""

    def stop(self, cause: str = "told to") -> None:
        """Stand still; that a limit was passed stays shown until the next motion."""
        if cause != "arrived":
            self.keeps_force = False
        if self.motion in MOVING:
            self.cause, self.motion = cause, Motion.HOLD

    def trip_if_over(self, force: float) -> None:
        driving = self.motion is Motion.RAMP or self.loads
        if abs(force) > self.force_limit and driving:
            self.motion, self.cause, self.keeps_force = Motion.TRIPPED, "force limit", False

    def hold_if_silent(self, silence: float) -> None:
        """Stand still when the host was not heard for longer than the heartbeat."""
        if silence > self.heartbeat:
            self.stop("no heartbeat")

    def advance(self, dt: float, steps: int) -> Array:
        """Positions after each of ``steps`` steps of ``dt`` seconds."""
        if self.motion in (Motion.HOLD, Motion.TRIPPED):
            return np.full(steps, self.position)
        way = self.target - self.position
        moved = np.minimum(np.arange(1, steps + 1) * dt * self.speed, abs(way))
        positions = self.position + np.sign(way) * moved
        self.position = float(positions[-1]) if steps else self.position
        if self.position == self.target:
            self.stop("arrived")
        return np.asarray(positions)

    def advance_force(self, dt: float, steps: int) -> Array:
        """Forces after each of ``steps`` steps of ``dt`` seconds, while it loads."""
        if self.motion not in LOADING:
            return np.full(steps, self.force)
        seconds = self._since + dt * np.arange(1, steps + 1, dtype=np.float64)
        self._since = float(seconds[-1]) if steps else self._since
        courses = {Motion.FORCE: self._ramp, Motion.SINE: self._swing, Motion.PLAY: self._played}
        forces = courses[self.motion](seconds)
        self.force = float(forces[-1]) if steps else self.force
        return forces

    def _ramp(self, seconds: Array) -> Array:
        up = abs(self._peak - self._from) / self._rate
        end = up + (abs(self._peak) / self._rate if self._returns else 0.0)
        if seconds[-1] >= end:
            self.keeps_force = not self._returns
            self.stop("arrived")
        last = 0.0 if self._returns else self._peak
        return np.interp(seconds, [0.0, up, max(end, up + 1e-9)], [self._from, self._peak, last])

    def _swing(self, seconds: Array) -> Array:
        """To the middle first; then the swing swells to its whole size."""
        lowest, highest, frequency = self._sine
        middle, size = (lowest + highest) / 2, (highest - lowest) / 2
        over = 2 * BEGINNING + self._lasts
        if seconds[-1] >= over:
            self.keeps_force = True
            self.stop("arrived")
        swinging = np.clip(np.minimum(seconds, over) - BEGINNING, 0.0, None)
        swell = np.clip(swinging / BEGINNING, 0.0, 1.0)
        ground = np.interp(seconds, [0.0, BEGINNING], [self._from, middle])
        swing = SHAPES[self._shape](2 * math.pi * frequency * swinging)
        return ground + self.gain * size * swell * np.where(seconds < over, swing, 0.0)

    def _played(self, seconds: Array) -> Array:
        """Along the table; the way there from where the force was takes as long as a swell."""
        rate, rounds, begin = self._play
        count = len(self._played_table)
        over = (rounds * count - 1) / rate
        at = np.maximum(seconds + begin, 0.0)
        if at[-1] >= over:
            self.keeps_force = True
            self.stop("arrived")
        round_trip = np.append(self._played_table, self._played_table[0])
        at = np.minimum(at, over) * rate
        forces = np.interp(at % count, np.arange(count + 1), round_trip)
        share = np.clip(seconds / BEGINNING, 0.0, 1.0)
        return np.asarray(self._from + share * (forces - self._from))
