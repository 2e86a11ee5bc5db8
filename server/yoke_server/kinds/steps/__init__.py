"""Steps of a channel's reading in the order in which they work; a new kind is one line."""

from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from yoke_server.kinds.steps.barometer import AbsolutePressure
from yoke_server.kinds.steps.base import ReadingStep
from yoke_server.kinds.steps.filters import HighPass, LowPass, MainsRejection
from yoke_server.kinds.steps.gauge import GaugeFactorSlope, ThermalOutput, TransverseSensitivity
from yoke_server.kinds.steps.span import ShuntSpan
from yoke_server.kinds.union import union_of

# Those that are not stateful first: they are part of the scaling's chain.
STEPS: tuple[type[ReadingStep], ...] = (
    ShuntSpan,
    TransverseSensitivity,
    AbsolutePressure,
    GaugeFactorSlope,
    ThermalOutput,
    MainsRejection,
    HighPass,
    LowPass,
)

if TYPE_CHECKING:
    StepSpec = ReadingStep
else:
    StepSpec = union_of(STEPS)
StepList = Annotated[list[StepSpec], Field(max_length=len(STEPS))]
