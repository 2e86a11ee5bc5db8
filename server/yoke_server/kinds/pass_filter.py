"""What a low-pass or a high-pass is set by, in a step of a reading and in a correction."""

from typing import TYPE_CHECKING, Annotated, Literal

from pydantic import Field

from yoke_server.common.http import fields

if TYPE_CHECKING:
    from yoke_core.signals.filter_design import FilterDesign

Corner = Annotated[float, fields.between(1e-3, 25_000)]  # Hz
Order = Annotated[int, Field(ge=1, le=8)]
FamilyName = Literal["Butterworth", "Bessel"]


def pass_filter(band: str, corner_hz: float, order: int, family: str) -> "FilterDesign":
    """The filter as the core knows it."""
    from yoke_core.signals.filter_design import Band, Family, FilterDesign

    return FilterDesign(Band(band), (corner_hz,), order, Family(family))
