from math import inf
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

import numpy as np

from yoke_server.common.http import fields
from yoke_server.kinds.guards.base import Guard
from yoke_server.kinds.measured import MeasuringSetup

if TYPE_CHECKING:
    from yoke_server.kinds.guards.watching import Finding, GuardWatch
    from yoke_server.kinds.stops.watched import Look


class NoSignal(Guard):
    """The channel is the very same in all samples, clips, or gives no reading, for a while."""

    kind: Literal["no_signal"] = "no_signal"
    sees: ClassVar[bool] = False
    debounce_s: Annotated[float, fields.between(0.1, 60)] = 2.0

    def watch(self, setup: MeasuringSetup) -> "GuardWatch":
        from yoke_server.kinds.guards.watching import Finding, GuardWatch

        reading, last = setup.watched(self.channel), inf
        rate_hz = setup.rates_hz[reading.device]

        def test(look: "Look", follows: bool) -> "Finding | None":
            nonlocal last
            samples = look.samples
            before, last = last if follows else inf, float(samples[-1])
            same = np.diff(samples, prepend=before) == 0
            none = same | ~np.isfinite(samples)
            words = f"{reading.of.name} has given no signal for {self.debounce_s:g} s"
            return Finding(none, words) if none.any() else None

        return GuardWatch(reading, rate_hz, self.debounce_s, test)
