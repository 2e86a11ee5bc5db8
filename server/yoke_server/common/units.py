"""Units of display: those of this list, and those that the laboratory defined of them.

What a person sends is looked up here and never evaluated; pint gives factors and offsets of
the names in the list. The web gets the same list (`/api/units`).
"""

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass
from functools import cache
from typing import Any, NamedTuple

from yoke_core.scaling.loop import HIGH, LOW

# By quantity: units to choose from, the one a new channel begins with first; and its decimals.
UNITS: dict[str, tuple[str, ...]] = {
    "force": ("kN", "N"),
    "extension": ("mm", "µm"),
    "displacement": ("mm", "m"),
    "strain": ("µm/m", "%"),
    "pressure": ("bar", "MPa", "kPa"),
    "temperature": ("°C", "K"),
    "speed": ("rpm", "rad/s"),
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
    "force": 3,
    "extension": 4,
    "displacement": 3,
    "strain": 1,
    "pressure": 2,
    "temperature": 2,
    "voltage": 4,
    "torque": 2,
    "acceleration": 3,
    "angle": 2,
    "speed": 1,
}
MAX_DECIMALS = 6
USUAL_DECIMALS = 3
# Their zero is nature's: what reads at rest is never taken off.
FROM_ABSOLUTE_ZERO = frozenset({"temperature"})
# The unit in which people speak of a signal.
SIGNAL_UNITS = {
    "bridge ratio": "mV/V",
    "voltage": "V",
    "current": "mA",
    "resistance": "Ω",
    "frequency": "Hz",
    "count": "1",
    "value": "1",
}
KNOWN = frozenset().union(*UNITS.values(), SIGNAL_UNITS.values())


@dataclass(frozen=True, slots=True)
class Unit:
    """SI = value * factor + offset."""

    name: str
    factor: float
    offset: float


class OwnUnit(NamedTuple):
    """A unit that the laboratory defined for a quantity. It never changes once it is there."""

    quantity: str
    unit: Unit


_own: dict[str, OwnUnit] = {}
_find_own: list[Callable[[], Iterable[OwnUnit]]] = []  # where they are stored, if anywhere


def find_own_units_by(find: Callable[[], Iterable[OwnUnit]]) -> None:
    """Say where the laboratory's own units are stored."""
    _find_own[:] = [find]


def learn_own_units() -> bool:
    """Look for own units that were defined meanwhile, by another process too; whether there are
    some."""
    before = len(_own)
    _own.update({own.unit.name: own for find in _find_own for own in find()})
    return len(_own) > before


def units_of(quantity: str) -> tuple[str, ...]:
    """The units of a quantity as far as they are known here, the usual one first."""
    own = (o.unit.name for o in _own.values() if o.quantity == quantity)
    return (*UNITS.get(quantity, ()), *own)


def is_unit_of(name: str, quantity: str) -> bool:
    """Whether a quantity is shown in a unit; one that is not known here may have been defined
    meanwhile."""
    return name in units_of(quantity) or (learn_own_units() and name in units_of(quantity))


# What the names above are made of. The library's own list is hundreds of units long, which each
# process would read at its start.
DEFINITIONS = """
milli- = 1e-3 = m-
micro- = 1e-6 = µ-
kilo- = 1e3 = k-
mega- = 1e6 = M-
giga- = 1e9 = G-
meter = [length] = m
kilogram = [mass]
second = [time] = s
ampere = [current] = A
kelvin = [temperature] = K
radian = [] = rad
degree = 3.141592653589793 / 180 * radian
rpm = 2 * 3.141592653589793 * radian / (60 * second)
percent = 0.01
degree_Celsius = kelvin; offset: 273.15 = degC
hertz = 1 / second = Hz
newton = kilogram * meter / second ** 2 = N
pascal = newton / meter ** 2 = Pa
bar = 1e5 * pascal
joule = newton * meter = J
volt = joule / ampere / second = V
ohm = volt / ampere = Ω
standard_gravity = 9.80665 * meter / second ** 2
""".strip().splitlines()


@cache
def _registry() -> Any:
    import pint

    known: Any = pint.UnitRegistry(None, autoconvert_offset_to_baseunit=True)
    for line in DEFINITIONS:
        known.define(line)
    return known


PINT = {
    "°C": "degC",
    "°": "degree",
    "MJ/m³": "MJ/m**3",
    "1": "",
    "N m": "N*m",
    "kN m": "kN*m",
    "g": "standard_gravity",
    "m/s²": "m/s**2",
}


# Of a 4-20 mA loop: nothing at 4 mA, 100 at 20 mA.
OF_SPAN = Unit("% of span", (HIGH - LOW) / 100, LOW)


def unit(name: str) -> Unit:
    """A unit of the list, or one of the laboratory's own; raises ValueError for another."""
    if name in KNOWN:
        return _listed(name)
    if name not in _own:
        learn_own_units()
    if name not in _own:
        raise ValueError(f"There is no unit {name}.")
    return _own[name].unit


@cache
def _listed(name: str) -> Unit:
    if name == OF_SPAN.name:
        return OF_SPAN
    quantity, known = _registry().Quantity, PINT.get(name, name)
    at_zero = quantity(0.0, known).to_base_units().magnitude
    at_one = quantity(1.0, known).to_base_units().magnitude
    return Unit(name, float(at_one - at_zero), float(at_zero))


# The letters of base units by what pint calls their dimensions.
BASE_UNITS = {
    "[length]": "m",
    "[mass]": "kg",
    "[time]": "s",
    "[current]": "A",
    "[temperature]": "K",
}


@cache
def dimension_of(name: str) -> dict[str, int]:
    """Of a unit the power of each base unit: {"m": 1, "s": -2} of an acceleration."""
    name = UNITS[_own[name].quantity][0] if name in _own else name
    powers = _registry().Quantity(1.0, PINT.get(name, name)).dimensionality
    return {BASE_UNITS[base]: int(power) for base, power in powers.items()}


def factor(name: str) -> float:
    """How many SI base units one more of a unit is."""
    return unit(name).factor


def suitable_decimals(quantity: str, unit: str) -> int:
    """Decimals with which a unit shows about the digits that the quantity usually has.

    `USUAL_DECIMALS` of a quantity of which no channel is made by itself.

    >>> suitable_decimals("force", "kN"), suitable_decimals("force", "N")
    (3, 0)
    """
    if quantity not in DECIMALS:
        return USUAL_DECIMALS
    places = math.log10(factor(unit) / factor(UNITS[quantity][0]))
    return min(MAX_DECIMALS, max(0, DECIMALS[quantity] + round(places)))


def last_digit(quantity: str) -> float:
    """The last digit that is usually shown of a quantity, SI."""
    return factor(UNITS[quantity][0]) * 10.0 ** -DECIMALS[quantity]


def digit_shown(name: str, decimals: int) -> float:
    """The last digit that is shown of a reading in a unit with so many decimals, SI."""
    return factor(name) * 10.0**-decimals


def span_from_si(span: Any, name: str) -> Any:
    """A difference, or an array of them, in a unit: an offset plays no part."""
    return span / factor(name)


def to_si(value: Any, name: str) -> Any:
    """A number, or an array of them, in a unit, as SI."""
    found = unit(name)
    return value * found.factor + found.offset


def from_si(value: Any, name: str) -> Any:
    """A number, or an array of them, in a unit."""
    found = unit(name)
    return (value - found.offset) / found.factor


def difference_unit(name: str, quantity: str) -> str:
    """In what a difference of a quantity is said whose readings are in a unit: without offset."""
    if not unit(name).offset:
        return name
    return next((one for one in units_of(quantity) if not unit(one).offset), name)
