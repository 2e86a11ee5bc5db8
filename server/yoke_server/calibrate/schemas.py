from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from yoke_server.wire.schemas import Positive

Finite = Annotated[float, Field(allow_inf_nan=False)]


class ScalingChange(Schema):
    """How a channel turns mV/V into its quantity (SI); what is left out stays."""

    scaling_kind: Literal["strain", "rated_output", "two_points"] | None = None
    gauge_factor: Positive | None = None
    poisson_ratio: Annotated[float, Field(ge=0, le=0.5)] | None = None
    rated_output_mv_v: Positive | None = None
    capacity: Positive | None = None
    point_1_mv_v: Finite | None = None
    point_1_value: Finite | None = None
    point_2_mv_v: Finite | None = None
    point_2_value: Finite | None = None
    reversed: bool | None = None


class Chosen(Schema):
    channels: list[int]


class Outcome(Schema):
    """What became of one channel; an empty ``problem`` means done."""

    channel: int
    name: str
    problem: str
