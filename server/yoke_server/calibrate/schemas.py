from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from yoke_server.common import fields
from yoke_server.common.fields import Body, Id, may_stay


class ScalingChange(Body):
    """How a channel turns mV/V into its quantity (SI); what is left out stays."""

    scaling_kind: Literal["strain", "rated_output", "two_points"] = may_stay()
    gauge_factor: fields.GaugeFactor | None = may_stay()
    poisson_ratio: fields.Poisson | None = may_stay()
    rated_output_mv_v: fields.RatedOutput | None = may_stay()
    capacity: fields.Capacity | None = may_stay()
    point_1_mv_v: fields.Signal | None = may_stay()
    point_1_value: fields.Quantity | None = may_stay()
    point_2_mv_v: fields.Signal | None = may_stay()
    point_2_value: fields.Quantity | None = may_stay()
    reversed: bool = may_stay()


class Chosen(Body):
    channels: Annotated[list[Id], Field(min_length=1, max_length=512)]


class Outcome(Schema):
    """What became of one channel; an empty ``problem`` means done."""

    channel: int
    name: str
    problem: str
