from typing import TYPE_CHECKING, Literal

import numpy as np
from yoke_server.kinds.guards.base import Guard
from yoke_server.kinds.measured import MeasuringSetup

if TYPE_CHECKING:
    from yoke_server.kinds.guards.watching import Finding, GuardWatch
    from yoke_server.kinds.stops.watched import Look


class Curfew(Guard):
    """A made-up guard: nothing may be measured for longer than it says."""

    kind: Literal["curfew"] = "curfew"
    samples: int

    def watch(self, setup: MeasuringSetup) -> "GuardWatch":
        from yoke_server.kinds.guards.watching import Finding, GuardWatch

        reading, seen = setup.watched(self.channel), 0

        def test(look: "Look", follows: bool) -> "Finding | None":
            nonlocal seen
            seen += look.samples.size
            beyond = np.full(look.samples.size, seen > self.samples)
            return Finding(beyond, "It is late") if beyond.any() else None

        return GuardWatch(reading, setup.rates_hz[reading.device], self.debounce_s, test)
