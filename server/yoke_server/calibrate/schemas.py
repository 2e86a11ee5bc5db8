from typing import Annotated

from ninja import Schema
from pydantic import Field

from yoke_server.common.http.fields import Answer, Body, Id, unset
from yoke_server.kinds.channel_specs import ScalingSpec
from yoke_server.setups.document import PolarityName


class ScalingChange(Body):
    """How a channel turns its signal into its quantity (SI); what is left out stays."""

    scaling: ScalingSpec = unset()
    polarity: PolarityName = unset()


class ChannelScalingOut(Answer):
    """What a channel's scaling does; ``per_signal`` is its slope near rest, quantity by signal in
    SI, 0 where ``scaling_problem`` says what is wrong. ``ends`` are the signals between which it
    counts."""

    per_signal: float
    ends: list[float]
    scaling_problem: str
    takes_zero: bool


class Chosen(Body):
    channels: Annotated[list[Id], Field(min_length=1, max_length=512)]


class CurveOut(Schema):
    """A scaling over what the signal may do, point by point, both in SI."""

    signals: list[float]
    readings: list[float]


class Outcome(Schema):
    """What became of one channel; an empty ``problem`` means done."""

    channel: int
    name: str
    problem: str
