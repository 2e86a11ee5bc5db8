"""What a person sets for a spectrum, and what is kept of it."""

from typing import Annotated, Literal

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.spec import Part, Spec
from yoke_server.kinds.stretches import StretchSpec
from yoke_server.kinds.stretches.whole import WholeRun

MAX_LENGTH = 1 << 17


class SpectrumParameters(Spec):
    """``resolution_hz``: how far its lines lie apart; ``band``: of which the RMS value is told."""

    kind: Literal["spectrum"] = "spectrum"
    channel: fields.Key
    stretch: StretchSpec = Field(default_factory=WholeRun)
    window: Literal["hann", "flat_top", "none"] = "hann"
    resolution_hz: Annotated[float, fields.between(1e-3, 1e4)] = 1.0
    band_from_hz: Annotated[float, fields.between(0, 1e6)] = 0.0
    band_to_hz: Annotated[float, fields.between(0, 1e6)] | None = None


class Line(Part):
    """A frequency, and the amplitude or the RMS value there, SI."""

    hz: float
    value: float


class SpectrumDetails(Spec):
    """Of which channel; its lines lie ``step_hz`` apart, ``parts`` were averaged, and each line
    is as wide as ``bandwidth_hz``. ``bands`` are third octaves by their mid frequencies."""

    kind: Literal["spectrum"] = "spectrum"
    channel: str
    unit: str
    window: str
    parts: int
    step_hz: float
    bandwidth_hz: float
    peaks: list[Line]
    bands: list[Line]
