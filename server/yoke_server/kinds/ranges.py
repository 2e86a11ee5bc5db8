"""Ranges of which one end may be open."""

from pydantic_core import PydanticCustomError


def check_range(lowest: float | None, highest: float | None) -> None:
    """Raise a validation error of a range without an end, or upside down."""
    if lowest is None and highest is None:
        raise PydanticCustomError("rule", "needs a lowest or a highest value")
    if lowest is not None and highest is not None and lowest >= highest:
        raise PydanticCustomError("rule", "lowest must lie below highest")
