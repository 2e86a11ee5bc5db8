"""Corrections of recorded runs; a new kind is one line in `CORRECTIONS`."""

from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from yoke_server.kinds.corrections.base import RunCorrection
from yoke_server.kinds.corrections.samples import (
    Despike,
    Offset,
    RemoveTrend,
    Resample,
    Scale,
    TimeBase,
    TimeShift,
    WindowZero,
    ZeroPhaseFilter,
)
from yoke_server.kinds.corrections.settings import (
    GaugeFactorCorrection,
    ScalingCorrection,
    SignCorrection,
    StepsCorrection,
    TareCorrection,
    UnitCorrection,
    ZeroCorrection,
)
from yoke_server.kinds.union import union_of

CORRECTIONS: tuple[type[RunCorrection], ...] = (
    GaugeFactorCorrection,
    ScalingCorrection,
    SignCorrection,
    ZeroCorrection,
    TareCorrection,
    UnitCorrection,
    StepsCorrection,
    Scale,
    Offset,
    TimeShift,
    TimeBase,
    Despike,
    ZeroPhaseFilter,
    Resample,
    RemoveTrend,
    WindowZero,
)
MAX_CORRECTIONS = 50  # of a run

if TYPE_CHECKING:
    CorrectionSpec = RunCorrection
else:
    CorrectionSpec = union_of(CORRECTIONS)
CorrectionList = Annotated[list[CorrectionSpec], Field(max_length=MAX_CORRECTIONS)]
