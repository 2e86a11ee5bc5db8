"""What legs have in common that play a table of forces."""

from typing import Any, ClassVar

import numpy as np
from numpy.typing import NDArray
from pydantic import model_validator
from pydantic_core import PydanticCustomError

from yoke_server.kinds.actions import FORCE, Action, LegProgress
from yoke_server.kinds.legs.base import Leg, LegOnPaper

STEEPEST_N_S = 1e5  # that an actuator follows
LEAD_IN = 1.0  # s, from the present force to that of the table
OUTLINE = 24  # stretches of a table that are shown on paper


class PlayedLeg(Leg):
    """Plays forces at an even rate, in so many rounds, and stays at the last one."""

    needs: ClassVar = FORCE

    @property
    def forces(self) -> NDArray[np.float64]:
        """(n,), N, of one round."""
        raise NotImplementedError

    @property
    def points_hz(self) -> float:
        raise NotImplementedError

    @property
    def rounds(self) -> int:
        raise NotImplementedError

    @model_validator(mode="after")
    def _can_be_followed(self) -> Any:
        forces = self.forces
        steps = np.abs(np.diff(forces, append=forces[:1] if self.rounds > 1 else forces[-1:]))
        steepest = int(np.argmax(steps))
        if steps[steepest] * self.points_hz > STEEPEST_N_S:
            raise PydanticCustomError(
                "rule",
                "has a jump of {jump} N at {at} s, which no actuator follows",
                {"jump": f"{steps[steepest]:.4g}", "at": f"{steepest / self.points_hz:.4g}"},
            )
        return self

    @property
    def seconds(self) -> float:
        """With the way to its beginning."""
        return LEAD_IN + (self.rounds * len(self.forces) - 1) / self.points_hz

    def on_paper(self, force: float | None) -> LegOnPaper:
        forces = self.forces
        parts = np.array_split(forces, min(OUTLINE, len(forces)))
        turns = [(float(p.min()), float(p.max())) for p in parts]
        outline = tuple(f for i, (a, b) in enumerate(turns) for f in ((a, b) if i % 2 else (b, a)))
        lowest, highest, end = float(forces.min()), float(forces.max()), float(forces[-1])
        return LegOnPaper(self.seconds, lowest, highest, end, outline=outline)

    def begin(self, name: str, before: LegProgress) -> Action:
        forces = self.forces.tolist()
        # What was held begins a little earlier, so that no part of it is left out.
        begin_s = max(-LEAD_IN, before.passed_s - 2 * LEAD_IN)
        return lambda driver: driver.play(name, forces, self.points_hz, self.rounds, begin_s)

    def is_over(self, progress: LegProgress) -> bool:
        return progress.has_arrived
