"""A gauge that sends its reading as a line of text, over and over, without being asked."""

from dataclasses import dataclass, field

import numpy as np

from yoke_rig.state import State

RATE = 10  # lines a second
MAX_TRAVEL = 0.06  # m; beyond it the plunger stands and the gauge says so


@dataclass(slots=True)
class LineGauge:
    """A dial gauge on the crosshead, in thousandths of a millimetre."""

    model: str = "DG60 dial gauge"
    serial: str = "40231"
    drift_ppm: float = -55.0
    seed: int = 22
    sent: int = 0
    _random: np.random.Generator = field(init=False)

    def __post_init__(self) -> None:
        self._random = np.random.default_rng(self.seed)

    def lines(self, state: State) -> list[str]:
        """What it sends during ``state``, by its own quartz."""
        runs = 1 + self.drift_ppm * 1e-6
        due = int(float(state.seconds[-1]) * runs * RATE)
        found = []
        for k in range(max(self.sent, due - RATE), due):
            at = (k + 1) / RATE / runs
            found.append(self._line(float(np.interp(at, state.seconds, state.position))))
        self.sent = due
        return found

    def _line(self, position: float) -> str:
        if abs(position) > MAX_TRAVEL:
            return "OVER"
        return f"{position * 1e3 + self._random.normal(0, 2e-4):+09.3f} mm"

    def answer(self, asked: str) -> str | None:
        """`ID` asks who it is; anything else is not heard."""
        return f"ID {self.model},{self.serial},1.2" if asked.strip().upper() == "ID" else None
