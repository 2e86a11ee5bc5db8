from typing import TYPE_CHECKING, Annotated, Literal

import numpy as np

from yoke_server.common.http import fields
from yoke_server.kinds.guards.base import Guard
from yoke_server.kinds.measured import MeasuringSetup

if TYPE_CHECKING:
    from yoke_server.kinds.guards.watching import Finding, GuardWatch
    from yoke_server.kinds.stops.watched import Look


class TooFast(Guard):
    """The channel changes faster than so much a second, either way, over a while; SI."""

    kind: Literal["too_fast"] = "too_fast"
    per_s: Annotated[float, fields.between(1e-12, 1e12)]
    over_s: Annotated[float, fields.between(1e-3, 10)] = 0.1

    def watch(self, setup: MeasuringSetup) -> "GuardWatch":
        from yoke_core.signals.graph import Measured, SignalGraph
        from yoke_core.signals.nodes.change import Rate

        from yoke_server.kinds.guards.watching import Finding, GuardWatch

        reading = setup.watched(self.channel)
        rate_hz = setup.rates_hz[reading.device]
        over_s = max(self.over_s, 1 / rate_hz)
        process = SignalGraph({"": Rate(over_s, (Measured("x"),))}).start(rate_hz)
        of = reading.of

        def test(look: "Look", follows: bool) -> "Finding | None":
            change = np.abs(process.push({"x": look.samples}, follows)[""])
            beyond = change > self.per_s
            if not beyond.any():
                return None
            span = of.shown(float(change[beyond].max())) - of.shown(0.0)
            return Finding(beyond, f"{of.name} changed by {span:.4g} {of.unit}/s")

        return GuardWatch(reading, rate_hz, self.debounce_s, test)
