"""What the sensors of a bench feel, at consecutive instants."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
STEP = 2e-3  # s between solved instants; the converter interpolates


@dataclass(frozen=True, slots=True)
class State:
    """Force, position and time, and by name what else there is to feel.

    ``felt`` holds strains (m/m), an infinite one where the grid is torn.
    """

    force: Array  # N, pulling positive
    position: Array  # m
    seconds: Array  # since the bench was switched on
    felt: dict[str, Array] = field(default_factory=dict)

    def of(self, source: str) -> Array:
        own = {"force": self.force, "position": self.position}
        return own[source] if source in own else self.felt[source]

    @property
    def last(self) -> "State":
        """Its last instant alone."""
        felt = {name: values[-1:] for name, values in self.felt.items()}
        return State(self.force[-1:], self.position[-1:], self.seconds[-1:], felt)
