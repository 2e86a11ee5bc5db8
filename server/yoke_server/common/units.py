"""Units of display, converted once at the edge through one pint registry."""

from functools import cache
from typing import Any


@cache
def _registry() -> Any:
    import pint

    return pint.UnitRegistry(cache_folder=None)


@cache
def factor(unit: str) -> float:
    """How many SI base units one ``unit`` is; raises ValueError for an unknown one."""
    import pint

    try:
        return float(_registry().Quantity(1.0, unit).to_base_units().magnitude)
    except pint.UndefinedUnitError as error:
        raise ValueError(f"There is no unit {unit}.") from error


def from_si(value: float, unit: str) -> float:
    return value / factor(unit)
