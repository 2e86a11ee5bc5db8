"""Units of display: those of this list and no others, each for one dimension.

What a person sends is looked up here and never evaluated; pint gives the factors of the names
in the list.
"""

from functools import cache
from typing import Any

UNITS: dict[str, tuple[str, ...]] = {
    "force": ("kN", "N"),
    "extension": ("mm", "µm"),
    "strain": ("µm/m", "%"),
}
KNOWN = frozenset().union(*UNITS.values())


@cache
def _registry() -> Any:
    import pint

    return pint.UnitRegistry(cache_folder=None)


@cache
def factor(unit: str) -> float:
    """How many SI base units one ``unit`` is; raises ValueError for one not in the list."""
    if unit not in KNOWN:
        raise ValueError(f"There is no unit {unit}.")
    return float(_registry().Quantity(1.0, unit).to_base_units().magnitude)


def from_si(value: float, unit: str) -> float:
    return value / factor(unit)
