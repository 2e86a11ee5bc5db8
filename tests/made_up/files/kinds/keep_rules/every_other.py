from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from yoke_server.kinds.keep_rules.base import Expected, KeepRule
from yoke_server.kinds.measured import MeasuringSetup


class EveryOther(KeepRule):
    """A made-up keep rule: every other second."""

    kind: Literal["every_other"] = "every_other"

    def decider(self, setup: MeasuringSetup) -> "OtherSeconds":
        return OtherSeconds()

    def rows(self, rate_hz: float, expected: Expected) -> float:
        return rate_hz * expected.seconds / 2


@dataclass(slots=True)
class OtherSeconds:
    lead: str = ""
    state: None = None

    def decide(self, block: Any, seconds: Any, follows: bool) -> Any:
        return np.floor(seconds) % 2 == 0

    def resume(self, state: None) -> None: ...
