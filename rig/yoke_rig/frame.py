"""The load frame's crosshead: ramp, hold, return, stop, limits, heartbeat."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


class Motion(StrEnum):
    HOLD = "HOLD"
    RAMP = "RAMP"
    RETURN = "RETURN"
    TRIPPED = "TRIPPED"


MOVING = (Motion.RAMP, Motion.RETURN)


@dataclass(slots=True)
class Crosshead:
    """Position in m, speeds in m/s; a limit passed while ramping trips the drive.

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

    def ramp(self, speed: float, target: float) -> None:
        """Move to ``target``; raises ValueError if it lies outside the travel limits."""
        if not self.lowest <= target <= self.highest:
            raise ValueError("target outside the travel limits")
        if not 0 < speed <= self.return_speed:
            raise ValueError("speed outside 0 to 5 mm/s")
        self.motion, self.speed, self.target = Motion.RAMP, speed, target

    def go_home(self) -> None:
        self.motion, self.speed, self.target = Motion.RETURN, self.return_speed, 0.0

    def stop(self, cause: str = "told to") -> None:
        if self.motion in MOVING:
            self.cause = cause
        self.motion = Motion.HOLD

    def trip_if_over(self, force: float) -> None:
        if abs(force) > self.force_limit and self.motion is Motion.RAMP:
            self.motion, self.cause = Motion.TRIPPED, "force limit"

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
