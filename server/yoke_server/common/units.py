"""Units of display: those of this list and no others, each for one quantity.

What a person sends is looked up here and never evaluated; pint gives factors and offsets of
the names in the list. The web gets the same list (`/api/units`).
"""

from dataclasses import dataclass
from functools import cache
from typing import Any

from yoke_core.scaling.loop import HIGH, LOW

# By quantity: units to choose from, the one a new channel begins with first; and its decimals.
UNITS: dict[str, tuple[str, ...]] = {
    "force": ("kN", "N"),
    "extension": ("mm", "µm"),
    "displacement": ("mm", "m"),
    "strain": ("µm/m", "%"),
    "pressure": ("bar", "MPa", "kPa"),
    "temperature": ("°C", "K"),
    "torque": ("N m", "kN m"),
    "acceleration": ("g", "m/s²"),
    "voltage": ("V", "mV"),
    "stress": ("MPa", "GPa"),
    "angle": ("°",),
    "energy density": ("MJ/m³",),
    "time": ("s", "ms", "µs"),
    "loop current": ("% of span", "mA"),
}
DECIMALS = {
    "force": 3, "extension": 4, "displacement": 3, "strain": 1, "pressure": 2, "temperature": 2,
    "voltage": 4, "torque": 2, "acceleration": 3, "angle": 2,
}  # fmt: skip
# The unit in which people speak of a signal.
SIGNAL_UNITS = {
    "bridge ratio": "mV/V", "voltage": "V", "current": "mA", "resistance": "Ω", "frequency": "Hz",
    "count": "1", "value": "1",
}  # fmt: skip
KNOWN = frozenset().union(*UNITS.values(), SIGNAL_UNITS.values())


@dataclass(frozen=True, slots=True)
class Unit:
    """SI = value * factor + offset."""

    name: str
    factor: float
    offset: float


@cache
def _registry() -> Any:
    import pint

    return pint.UnitRegistry(cache_folder=None, autoconvert_offset_to_baseunit=True)


PINT = {
    "°C": "degC", "°": "degree", "MJ/m³": "MJ/m**3", "1": "", "N m": "N*m", "kN m": "kN*m",
    "g": "standard_gravity", "m/s²": "m/s**2",
}  # fmt: skip


# Of a 4-20 mA loop: nothing at 4 mA, 100 at 20 mA.
OF_SPAN = Unit("% of span", (HIGH - LOW) / 100, LOW)


@cache
def unit(name: str) -> Unit:
    """A unit of the list; raises ValueError for one not in it."""
    if name not in KNOWN:
        raise ValueError(f"There is no unit {name}.")
    if name == OF_SPAN.name:
        return OF_SPAN
    quantity, known = _registry().Quantity, PINT.get(name, name)
    at_zero = quantity(0.0, known).to_base_units().magnitude
    at_one = quantity(1.0, known).to_base_units().magnitude
    return Unit(name, float(at_one - at_zero), float(at_zero))


def factor(name: str) -> float:
    """How many SI base units one more of a unit is."""
    return unit(name).factor


def to_si(value: Any, name: str) -> Any:
    """A number, or an array of them, in a unit, as SI."""
    found = unit(name)
    return value * found.factor + found.offset


def from_si(value: Any, name: str) -> Any:
    """A number, or an array of them, in a unit."""
    found = unit(name)
    return (value - found.offset) / found.factor
