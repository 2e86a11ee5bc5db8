"""Two points of a scaling, each captured while a known value acts."""

from django.db import transaction
from yoke_core.errors import CoreError

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.calibrate.services import Rest, change_scaling, why_not_steady
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.chain import chain_parts, per_signal
from yoke_server.kinds.scalings.two_points import PointNumber, TwoPointScaling
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.freezing import frozen_channel
from yoke_server.setups.models import Channel

STEP = 1e-3  # of a signal (SI): the other point of a line, until that is captured too


def setup_of_channel(actor: Actor, channel_id: int) -> int:
    """Whose recorder is to measure a channel for its scaling."""
    require(actor, "change scaling")
    return Channel.objects.get(pk=channel_id).setup_id


@transaction.atomic
def capture_point(
    actor: Actor, channel_id: int, point: PointNumber, value: float, measured: Rest
) -> Channel:
    """Take what a channel reads now as the signal of a value (SI); refused while it moves."""
    require(actor, "change scaling")
    row = Channel.objects.select_related("setup").get(pk=channel_id)
    channel = frozen_channel(row.setup, row.key)
    reading = measured[channel.key]
    if why := why_not_steady(channel, reading):
        hint = "Capture the point once it stands still."
        raise Problem(409, why, code=ProblemType.NOT_READY, hint=hint)
    scaling = _line_of(channel).with_point(point, _to_scale(channel, reading.value), value)
    return change_scaling(actor, channel_id, scaling=scaling)


def _line_of(channel: FrozenChannel) -> TwoPointScaling:
    """The scaling in force, as two points of its line near rest."""
    if isinstance(channel.scaling, TwoPointScaling):
        return channel.scaling
    try:
        slope = per_signal(channel)
    except CoreError:
        slope = 1.0
    return TwoPointScaling(signal_1=0.0, value_1=0.0, signal_2=STEP, value_2=STEP * slope)


def _to_scale(channel: FrozenChannel, signal: float) -> float:
    """A signal as it comes to the scaling: behind its zero and its sign, where these come first."""
    for part in chain_parts(channel):
        if part.in_quantity:
            break
        signal = part.apply(signal)
    return signal
