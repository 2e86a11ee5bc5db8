"""What calibration adds to a channel as the screens show it."""

import math
from typing import Any

import numpy as np
from yoke_core.errors import ScalingError

from yoke_server.calibrate.scaling import chain_of, per_signal, resting_signal, takes_zero
from yoke_server.wire.document import FrozenChannel
from yoke_server.wire.freezing import frozen_channel
from yoke_server.wire.models import Channel

BENT = 25  # points of a curve that is drawn


def of_channel(channel: FrozenChannel) -> dict[str, Any]:
    """Its scaling as a slope near rest, and from where to where it counts, or what is wrong."""
    found: dict[str, Any] = {
        "per_signal": 0.0, "ends": list(_ends(channel)), "scaling_problem": "",
    }  # fmt: skip
    try:
        slope = per_signal(channel)
        found["per_signal"] = slope if math.isfinite(slope) else 0.0
    except ScalingError as error:
        found["scaling_problem"] = str(error)
    return found | {"takes_zero": takes_zero(channel)}


def of_lines(setups: Any, channels: dict[int, list[FrozenChannel]]) -> dict[int, dict[str, int]]:
    """How many of each setup's channels have no zero that should have one."""
    return {
        setup: {"to_zero": sum(c.recorded and c.zero is None and takes_zero(c) for c in own)}
        for setup, own in channels.items()
    }


def curve_of(channel_id: int) -> dict[str, list[float]]:
    """Of a channel as it is now; raises the scaling's error where it has no answer."""
    row = Channel.objects.select_related("setup").get(pk=channel_id)
    return curve(frozen_channel(row.setup, row.key))


def curve(channel: FrozenChannel) -> dict[str, list[float]]:
    """Signals and readings in SI over what the signal may do; two points where it is a line."""
    chain = chain_of(channel)
    signals = np.linspace(*_ends(channel), 2 if chain.line else BENT)
    readings = chain.apply(signals)
    known = np.isfinite(readings)
    return {"signals": signals[known].tolist(), "readings": readings[known].tolist()}


def _ends(channel: FrozenChannel) -> tuple[float, float]:
    """From where to where the signal may go, SI: its range, or what the sensor gives of it."""
    wiring, conditioning, scaling = channel.wiring, channel.conditioning, channel.scaling
    if wiring.kind == "loop":
        return 4e-3 * wiring.resistor_ohm, 20e-3 * wiring.resistor_ohm
    if wiring.kind == "thermometer":
        rest = resting_signal(channel) or 100.0
        return 0.8 * rest, 1.4 * rest
    reach = conditioning.range_mv_v * 1e-3 if conditioning.kind == "bridge" else 10.0
    if scaling.kind == "rated_output":
        reach = min(reach, abs(scaling.rated_output))
    elif scaling.kind == "gauge":
        reach /= 4
    return -reach, reach
