"""What ends a run by itself. By hand it ends always."""

from typing import Annotated, Literal

from pydantic import Field

from yoke_server.common import fields
from yoke_server.wire.specs.base import Spec


class ForceDrop(Spec):
    """The force has fallen by a share of its highest, once that has reached ``arm_n``."""

    kind: Literal["force_drop"] = "force_drop"
    share: fields.Share
    arm_n: Annotated[float, fields.between(1e-3, 1e6)] = 500.0


class TimeUp(Spec):
    """So long after the first sample."""

    kind: Literal["time"] = "time"
    seconds: Annotated[float, fields.between(0.1, 1e8)]


class CyclesDone(Spec):
    """So many cycles of the force, counted in its samples; of a sine only."""

    kind: Literal["cycles"] = "cycles"
    cycles: Annotated[int, Field(ge=1, le=10**9)]


class MotionEnd(Spec):
    """The actuator has done what it was to do, and stands."""

    kind: Literal["motion_end"] = "motion_end"


class Limit(Spec):
    """A channel leaves what is allowed of it; SI of its quantity."""

    kind: Literal["limit"] = "limit"
    channel: fields.Key
    lowest: fields.Quantity | None = None
    highest: fields.Quantity | None = None


StopSpec = Annotated[
    ForceDrop | TimeUp | CyclesDone | MotionEnd | Limit, Field(discriminator="kind")
]
StopList = Annotated[list[StopSpec], Field(max_length=12)]
