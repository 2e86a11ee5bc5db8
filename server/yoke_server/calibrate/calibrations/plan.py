"""The plan of a calibration, and the steps that it is made of."""

import itertools
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator
from pydantic_core import PydanticCustomError

from yoke_server.common.http import fields
from yoke_server.kinds.loads import LoadsSpec
from yoke_server.kinds.loads.base import Relative
from yoke_server.kinds.spec import Spec

MAX_SERIES = 8
CREEPS = (30.0, 300.0)  # s after the largest load was put on (ISO 376:2011, 7.4.4)
Rotation = Annotated[float, fields.between(0, 359.9)]  # degrees


class Plan(Spec):
    """What is put on, how often, and how the points are evaluated.

    rotations : of the sensor about its axis, one for each series, degrees
    falling : whether loads are also captured on the way down
    creep : whether the largest load is left on in the end, to see how the signal creeps
    order : of the curve, 1 to 3; ``through_zero``: no load gives no deflection
    reference_drift : by which the loads may have drifted since they were calibrated
    temperature_coefficient : of the sensor, 1/K; the temperature stays within ``temperature_k``
    """

    kind: Literal["calibration_plan"] = "calibration_plan"
    loads: LoadsSpec
    rotations: Annotated[list[Rotation], Field(min_length=1, max_length=MAX_SERIES)]
    falling: bool = True
    creep: bool = False
    preloads: Annotated[int, Field(ge=0, le=5)] = 1
    order: Annotated[int, Field(ge=1, le=3)] = 1
    through_zero: bool = True
    reference_drift: Relative = 0.0
    temperature_coefficient: Annotated[float, fields.between(0, 0.01)] = 0.0
    temperature_k: Annotated[float, fields.between(0, 50)] = 1.0

    @field_validator("loads")
    @classmethod
    def _monotonic(cls, loads: Any) -> Any:
        """They rise in magnitude, all of one sign, none twice."""
        found = loads.nominal
        for place, (one, other) in enumerate(itertools.pairwise(found), start=2):
            if one * other <= 0 or abs(other) <= abs(one):
                raise PydanticCustomError(
                    "rule",
                    "go up in size, without zero: load {place} is no larger than the one before",
                    {"place": place},
                )
        if not found[0]:
            raise PydanticCustomError("rule", "begin with zero: leave zero out")
        return loads


class Stage(StrEnum):
    """Where in its series a step is."""

    PRELOAD = "preload"
    ZERO = "zero"
    RISING = "rising"
    FALLING = "falling"
    ZERO_AFTER = "zero after"
    CREEP = "creep"


@dataclass(frozen=True, slots=True)
class PlanStep:
    """One load to put on; ``series`` counts from 0, -1 of a preload.

    after_s : how long the load has been on by then, counted from the step before all such
    """

    number: int
    stage: Stage
    series: int
    rotation: float
    load: float
    after_s: float = 0.0


def steps_of(plan: Plan) -> list[PlanStep]:
    """All steps in order."""
    return [PlanStep(i, *step) for i, step in enumerate(_steps(plan))]


def creep_steps(plan: Plan) -> list[PlanStep]:
    """The largest load put on, then the same after 30 s and after 300 s; none without a creep
    test."""
    return [s for s in steps_of(plan) if s.stage is Stage.CREEP]


def _steps(plan: Plan) -> Iterator[tuple[Stage, int, float, float, float]]:
    loads = plan.loads.nominal
    for _ in range(plan.preloads):
        yield Stage.PRELOAD, -1, plan.rotations[0], loads[-1], 0.0
    for series, rotation in enumerate(plan.rotations):
        yield Stage.ZERO, series, rotation, 0.0, 0.0
        for load in loads:
            yield Stage.RISING, series, rotation, load, 0.0
        for load in reversed(loads[:-1]) if plan.falling else ():
            yield Stage.FALLING, series, rotation, load, 0.0
        yield Stage.ZERO_AFTER, series, rotation, 0.0, 0.0
    for after_s in (0.0, *CREEPS) if plan.creep else ():
        yield Stage.CREEP, len(plan.rotations), plan.rotations[-1], loads[-1], after_s
