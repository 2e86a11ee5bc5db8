from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.actions import Force
from yoke_server.kinds.legs.played import PlayedLeg

MAX_FORCES = 5000


class HistoryLeg(PlayedLeg):
    """A force history, as a file gave it, so many times over.

    source : the file that it came from
    """

    kind: Literal["history"] = "history"
    forces_n: Annotated[list[Force], Field(min_length=2, max_length=MAX_FORCES)]
    rate_hz: Annotated[float, fields.between(1e-3, 1000)]
    times: Annotated[int, Field(ge=1, le=10**6)] = 1
    source: Annotated[str, fields.Text(0, 120)] = ""

    @property
    def forces(self) -> NDArray[np.float64]:
        return np.array(self.forces_n)

    @property
    def points_hz(self) -> float:
        return self.rate_hz

    @property
    def rounds(self) -> int:
        return self.times

    @property
    def sentence(self) -> str:
        of = f"“{self.source}”" if self.source else "a force history"
        again = f", {self.times} times" if self.times > 1 else ""
        return f"{len(self.forces_n)} forces of {of} at {self.rate_hz:g} Hz{again}."
