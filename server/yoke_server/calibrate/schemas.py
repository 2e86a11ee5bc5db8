from typing import Annotated

from ninja import Schema
from pydantic import Field

from yoke_server.common.fields import Body, Id, unset
from yoke_server.wire.document import PolarityName
from yoke_server.wire.specs.scaling import ScalingSpec


class ScalingChange(Body):
    """How a channel turns its signal into its quantity (SI); what is left out stays."""

    scaling: ScalingSpec = unset()
    polarity: PolarityName = unset()


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
