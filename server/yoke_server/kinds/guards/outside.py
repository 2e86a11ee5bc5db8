from math import inf
from typing import TYPE_CHECKING, Any, Literal

import numpy as np
from pydantic import model_validator

from yoke_server.common.http import fields
from yoke_server.kinds.guards.base import Guard
from yoke_server.kinds.measured import MeasuringSetup
from yoke_server.kinds.ranges import check_range

if TYPE_CHECKING:
    from yoke_server.kinds.guards.watching import Finding, GuardWatch
    from yoke_server.kinds.stops.watched import Look, Readable


class Outside(Guard):
    """The channel leaves a range; SI of its quantity. A clipped sample is beyond it."""

    kind: Literal["outside"] = "outside"
    lowest: fields.Quantity | None = None
    highest: fields.Quantity | None = None

    @model_validator(mode="after")
    def _some_range(self) -> Any:
        check_range(self.lowest, self.highest)
        return self

    @property
    def bounds(self) -> tuple[float, float]:
        low = -inf if self.lowest is None else self.lowest
        return low, inf if self.highest is None else self.highest

    def watch(self, setup: MeasuringSetup) -> "GuardWatch":
        from yoke_server.kinds.guards.watching import GuardWatch

        reading = setup.watched(self.channel)
        low, high = self.bounds

        def test(look: "Look", follows: bool) -> "Finding | None":
            return _outside(look, reading.of, low, high)

        rate_hz = setup.rates_hz[reading.device]
        return GuardWatch(reading, rate_hz, self.debounce_s, test)


def _outside(look: "Look", of: "Readable", low: float, high: float) -> "Finding | None":
    from yoke_server.kinds.guards.watching import Finding

    if look.lowest >= low and look.highest <= high and not look.clipped:
        return None
    samples = look.samples
    beyond = np.isinf(samples) | (samples < low) | (samples > high)
    if look.highest > high:
        words = f"{of.name} went above {_said(of, high)} to {_said(of, look.highest)}"
    elif look.lowest < low:
        words = f"{of.name} went below {_said(of, low)} to {_said(of, look.lowest)}"
    else:
        words = f"{of.name} clipped"
    return Finding(beyond, words)


def _said(of: "Readable", value: float) -> str:
    return f"{of.shown(value):.4g} {of.unit}"
