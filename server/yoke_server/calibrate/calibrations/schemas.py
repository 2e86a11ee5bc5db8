"""Bodies and answers about calibrations."""

from datetime import date, datetime
from typing import Annotated

from pydantic import Field

from yoke_server.calibrate.calibrations.plan import Plan, Stage
from yoke_server.common.http.fields import Answer, Body, Day, Text
from yoke_server.kinds.channel_specs import ScalingSpec

Step = Annotated[int, Field(ge=0, le=1000)]


class PlanIn(Body):
    plan: Plan


class CaptureIn(Body):
    """The step of the plan that is captured, counted from 0."""

    step: Step


class LeaveOutIn(Body):
    step: Step
    reason: Annotated[str, Text(3, 200)]


class AcceptIn(Body):
    number: Annotated[str, Text(1, 40)]
    due_on: Day | None = None


class StepOut(Answer):
    """A step of the plan, and what was captured at it; SI.

    due_at : not before then, where a load must have been on for a time
    """

    number: int
    stage: Stage
    series: int
    rotation: float
    load: float
    after_s: float
    due_at: datetime | None
    captured: bool
    left_out: str
    signal: float | None
    actual: float | None


class TermOut(Answer):
    """A term of an uncertainty budget, as a share of the load; no ``dof`` means very many."""

    name: str
    share: float
    dof: float | None
    distribution: str


class LoadOut(Answer):
    """What was found at one load, relative; None where it was not examined.

    rising, falling : what the load by the curve misses it by, series by series
    """

    load: float
    deflection: float
    repeatability: float | None
    reproducibility: float | None
    interpolation: float
    reversibility: float | None
    rising: list[float | None]
    falling: list[float | None]
    expanded: float
    factor: float
    terms: list[TermOut]


class VerdictOut(Answer):
    """The class of one characteristic; ``name`` is empty where it is in none."""

    characteristic: str
    worst: float
    name: str


class BandOut(Answer):
    """Within which residuals of a class lie, relative."""

    name: str
    limit: float


class ClassOut(Answer):
    """A class by a standard, and what it rests on."""

    standard: str
    name: str
    from_load: float
    limited_by: str
    verdicts: list[VerdictOut]
    lacks: list[str]
    bands: list[BandOut]


class EvaluationOut(Answer):
    """What the captures come to; relative, but for ``per_signal`` (SI)."""

    loads: list[LoadOut]
    nonlinearity: float
    hysteresis: float | None
    zero_return: float | None
    creep: float | None
    expanded: float
    per_signal: float
    per_signal_before: float
    scaling: ScalingSpec
    classification: ClassOut | None


class CalibrationOut(Answer):
    """A calibration with its steps; ``next_step`` is None once all are captured.

    problem : why nothing can be evaluated yet
    """

    id: int
    channel_key: str
    sensor: str
    state: str
    begun_by: str
    begun_at: datetime
    plan: Plan
    reference: str
    reference_key: str | None  # of the channel that measures the loads
    reference_uncertainty: float
    steps: list[StepOut]
    next_step: int | None
    steady: float
    evaluation: EvaluationOut | None
    problem: str
    certificate: str
    certificate_id: int | None
    has_file: bool
    due_on: date | None


class CalibrationLine(Answer):
    """One calibration in a list."""

    id: int
    channel_key: str
    sensor: str
    state: str
    begun_at: datetime
    certificate: str
