"""What calibration adds to a channel as the screens show it."""

import math
from collections.abc import Sequence

import numpy as np
from yoke_core.errors import ScalingError

from yoke_server.calibrate.schemas import ChannelScalingOut, ZeroOut
from yoke_server.calibrate.shunt_verdict import shunt_check_of
from yoke_server.kinds.chain import chain_of, per_signal, takes_zero
from yoke_server.kinds.steady import most_going
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.freezing import frozen_channel
from yoke_server.setups.models import Balance, Channel

BENT = 25  # points of a curve that is drawn


def scaling_out(channel: FrozenChannel) -> ChannelScalingOut:
    """Its scaling as a slope near rest, and from where to where it counts, or what is wrong."""
    slope, going, problem = 0.0, 0.0, ""
    try:
        slope, going = per_signal(channel), most_going(channel)
    except ScalingError as error:
        problem = str(error)
    return ChannelScalingOut(
        per_signal=slope if math.isfinite(slope) else 0.0,
        ends=list(channel.wiring.signal_range(channel)),
        scaling_problem=problem,
        scaling_doubt=channel.scaling.doubt(),
        takes_zero=takes_zero(channel),
        most_going=going if math.isfinite(going) else 0.0,
        shunt_check=shunt_check_of(channel),
    )


MAX_ZEROS = 60


def zeros_of(channel_id: int) -> list[ZeroOut]:
    """The newest zeros of a channel, the oldest of them first."""
    row = Channel.objects.get(pk=channel_id)
    rows = Balance.objects.filter(setup_id=row.setup_id, channel_key=row.key).order_by("-pk")
    return [ZeroOut(at=r.at, zero=r.zero) for r in reversed(rows[:MAX_ZEROS])]


def count_to_zero(channels: Sequence[FrozenChannel]) -> int:
    """How many have no zero that should have one."""
    return sum(c.recorded and c.zero is None and takes_zero(c) for c in channels)


def curve_of(channel_id: int) -> dict[str, list[float]]:
    """Of a channel as it is now; raises the scaling's error where it has no answer."""
    row = Channel.objects.select_related("setup").get(pk=channel_id)
    return curve(frozen_channel(row.setup, row.key))


def curve(channel: FrozenChannel) -> dict[str, list[float]]:
    """Signals and readings in SI over what the signal may do; two points where it is a line."""
    chain = chain_of(channel)
    signals = np.linspace(*channel.wiring.signal_range(channel), 2 if chain.line else BENT)
    readings = chain.apply(signals)
    known = np.isfinite(readings)
    return {"signals": signals[known].tolist(), "readings": readings[known].tolist()}
