"""Fields of a sensor as text: one rule for the form, for CSV and for XLSX."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from yoke_server.common.http.number_input import InvalidInput, read_number
from yoke_server.common.units import SIGNAL_UNITS, UNITS, factor, from_si, to_si, units_of


@dataclass(frozen=True, slots=True)
class Field:
    """One field as text; one ``of_quantity`` is in the unit of what the sensor measures.

    ``read`` and ``show`` turn text into the spec's value and back; both get the quantity.
    """

    name: str
    label: str
    of_spec: str
    read: Callable[[str, str], Any]
    show: Callable[[Any, str], str]
    unit: str = ""
    choices: tuple[str, ...] = ()
    optional: bool = False
    of_quantity: bool = False


def tidy(value: float) -> float:
    """Without the last digits, which turning units leaves: what is shown reads back the same."""
    return float(f"{value:.12g}")


def in_unit(unit: str) -> tuple[Callable[[str, str], Any], Callable[[Any, str], str]]:
    def by() -> float:  # not before it is needed: each process would load the units at its start
        return 1.0 if unit in ("", "m", "Ω", "V") else factor(unit)

    return (
        lambda text, quantity: tidy(read_number(text, unit).value * by()),
        lambda value, quantity: f"{value / by():.10g}",
    )


def figure(name: str, label: str, of_spec: str, unit: str, optional: bool = False) -> Field:
    read, show = in_unit(unit)
    return Field(name, label, of_spec, read, show, unit, optional=optional)


def _read_quantity(text: str, quantity: str) -> float:
    """In any unit of the quantity; in its usual one where none is written."""
    known = units_of(quantity)
    unit = next((u for u in sorted(known, key=len, reverse=True) if text.rstrip().endswith(u)), "")
    return tidy(to_si(read_number(text, unit).value, unit or known[0]))


def quantity(name: str, label: str) -> Field:
    def show(value: Any, quantity: str) -> str:
        unit = UNITS[quantity][0]
        return f"{from_si(value, unit):.10g} {unit}"

    return Field(name, label, name, _read_quantity, show, of_quantity=True)


def whole(what: str) -> Callable[[str, str], int]:
    def read(text: str, quantity: str) -> int:
        value = read_number(text, "").value
        if value != int(value):
            raise InvalidInput(f"{what} are a whole number")
        return int(value)

    return read


MV_V = SIGNAL_UNITS["bridge ratio"]
WIRES = Field("wires", "Cores", "wires", whole("cores"), lambda v, q: f"{v}")
RESISTANCE = figure("resistance", "Resistance", "resistance_ohm", "Ω")
CAPACITY = quantity("capacity", "Capacity")
RATED_OUTPUT = figure("rated_output", "Rated output", "rated_output", MV_V)
