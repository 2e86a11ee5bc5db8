"""What a person sets for the statistics of a channel, and what is kept of them."""

from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from yoke_server.common.http import fields
from yoke_server.kinds.ranges import check_range
from yoke_server.kinds.spec import Part, Spec
from yoke_server.kinds.stretches import StretchSpec
from yoke_server.kinds.stretches.whole import WholeRun

Figure = Literal["lowest", "highest", "mean", "rms", "deviation", "peak_to_peak", "slope"]


class FigureLimit(Part):
    """Between which a figure (SI) must lie."""

    figure: Figure
    lowest: fields.Quantity | None = None
    highest: fields.Quantity | None = None

    @model_validator(mode="after")
    def _some_range(self) -> Any:
        check_range(self.lowest, self.highest)
        return self


class StatisticsParameters(Spec):
    """``above``: a level (SI), the time beyond which is told."""

    kind: Literal["statistics"] = "statistics"
    channel: fields.Key
    stretch: StretchSpec = Field(default_factory=WholeRun)
    above: fields.Quantity | None = None
    limits: Annotated[list[FigureLimit], Field(max_length=12)] = []


class StatisticsDetails(Spec):
    """Of which channel, from when to when (s); ``outside``: symbols of figures beyond limits."""

    kind: Literal["statistics"] = "statistics"
    channel: str
    unit: str
    from_s: float
    to_s: float
    outside: list[str]
