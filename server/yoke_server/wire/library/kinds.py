"""What people call a sensor, how each kind may be connected, and which fields that needs."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, get_args

from yoke_core.bridge.circuit import Circuit
from yoke_core.wiring.wiring_case import wiring_case

from yoke_server.common.number_input import InvalidInput, read_number
from yoke_server.common.units import SIGNAL_UNITS, UNITS, factor, from_si, to_si
from yoke_server.wire.specs.base import Spec
from yoke_server.wire.specs.sensor import SensorSpec


@dataclass(frozen=True, slots=True)
class Kind:
    """What it measures, and the specs that it may have; the first is the usual one."""

    quantity: str
    connections: tuple[str, ...]


KINDS = {
    "strain gauge": Kind("strain", ("gauge",)),
    "rosette": Kind("strain", ("rosette",)),
    "load cell": Kind("force", ("transducer", "voltage", "loop", "digital")),
    "torque sensor": Kind("torque", ("transducer", "voltage")),
    "displacement": Kind(
        "displacement",
        ("loop", "transducer", "potentiometer", "inductive_half", "voltage", "digital"),
    ),
    "extensometer": Kind("extension", ("transducer",)),
    "pressure": Kind("pressure", ("loop", "transducer", "voltage")),
    "angle": Kind("angle", ("voltage", "loop", "potentiometer")),
    "speed pulses": Kind("speed", ("pulses", "voltage")),
    "temperature": Kind("temperature", ("platinum", "loop")),
    "acceleration": Kind("acceleration", ("voltage", "transducer")),
    "force output": Kind("force", ("voltage",)),
}  # fmt: skip
CONNECTIONS = {
    "gauge": "Strain gauge", "rosette": "Rosette", "transducer": "Bridge", "loop": "4-20 mA",
    "voltage": "Voltage", "platinum": "Platinum thermometer",
    "potentiometer": "Potentiometer", "inductive_half": "Inductive half bridge", "pulses": "Pulses",
    "digital": "Numbers",
}  # fmt: skip


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


def _tidy(value: float) -> float:
    """Without the last digits, which turning units leaves: what is shown reads back the same."""
    return float(f"{value:.12g}")


def _in_unit(unit: str) -> tuple[Callable[[str, str], Any], Callable[[Any, str], str]]:
    def by() -> float:  # not before it is needed: each process would load the units at its start
        return 1.0 if unit in ("", "m", "Ω", "V") else factor(unit)

    return (
        lambda text, quantity: _tidy(read_number(text, unit).value * by()),
        lambda value, quantity: f"{value / by():.10g}",
    )


def _figure(name: str, label: str, of_spec: str, unit: str, optional: bool = False) -> Field:
    read, show = _in_unit(unit)
    return Field(name, label, of_spec, read, show, unit, optional=optional)


def _read_quantity(text: str, quantity: str) -> float:
    """In any unit of the quantity; in its usual one where none is written."""
    known = UNITS[quantity]
    unit = next((u for u in sorted(known, key=len, reverse=True) if text.rstrip().endswith(u)), "")
    return _tidy(to_si(read_number(text, unit).value, unit or known[0]))


def _quantity(name: str, label: str) -> Field:
    def show(value: Any, quantity: str) -> str:
        unit = UNITS[quantity][0]
        return f"{from_si(value, unit):.10g} {unit}"

    return Field(name, label, name, _read_quantity, show, of_quantity=True)


def _read_circuit(text: str, quantity: str) -> str:
    wanted = text.strip().lower().replace(" ", "_").replace("-", "_")
    if wanted not in tuple(Circuit):
        raise InvalidInput(f"there is no circuit “{text[:40]}”: one of {', '.join(CIRCUITS)}")
    return wanted


def _whole(what: str) -> Callable[[str, str], int]:
    def read(text: str, quantity: str) -> int:
        value = read_number(text, "").value
        if value != int(value):
            raise InvalidInput(f"{what} are a whole number")
        return int(value)

    return read


def _read_angles(text: str, quantity: str) -> list[float]:
    parts = text.replace("°", " ").replace("/", " ").replace(";", " ").split()
    return [read_number(p, "").value * factor("°") for p in parts]


def _read_shown(text: str, quantity: str) -> float:
    """A unit of the quantity, in which the instrument shows it."""
    plain = [u for u in UNITS[quantity] if not to_si(0.0, u)]
    if text.strip() not in plain:
        raise InvalidInput(f"it shows {quantity} in “{text[:20]}”: one of {', '.join(plain)}")
    return factor(text.strip())


def _show_shown(value: Any, quantity: str) -> str:
    return next((u for u in UNITS[quantity] if factor(u) == value), f"{value:.10g}")


CIRCUITS = tuple(c.value.replace("_", " ") for c in Circuit)
CIRCUIT = Field(
    "circuit", "Circuit", "circuit", _read_circuit, lambda v, q: str(v).replace("_", " "),
    choices=CIRCUITS,
)  # fmt: skip
WIRES = Field("wires", "Cores", "wires", _whole("cores"), lambda v, q: f"{v}")
PULSES = Field(
    "pulses_per_turn", "Pulses a turn", "pulses_per_turn", _whole("pulses"), lambda v, q: f"{v}"
)
RESISTANCE = _figure("resistance", "Resistance", "resistance_ohm", "Ω")
GAUGE_FACTOR = _figure("gauge_factor", "Gauge factor", "gauge_factor", "")
GRID_AREA = Field(
    "grid_area", "Grid area", "grid_area_m2",
    lambda text, q: _tidy(read_number(text, "mm²").value * 1e-6), lambda v, q: f"{v * 1e6:.6g}",
    "mm²", optional=True,
)  # fmt: skip
LEAD = _figure("lead_length", "Lead", "lead_length_m", "m")
ANGLES = Field(
    "angles", "Angles", "angles", _read_angles,
    lambda v, q: " ".join(f"{a / factor('°'):.6g}" for a in v), "°",
)  # fmt: skip
SHOWN_IN = Field("shown_in", "Shows", "factor", _read_shown, _show_shown)
MV_V = SIGNAL_UNITS["bridge ratio"]
FIELDS: dict[str, tuple[Field, ...]] = {
    "gauge": (CIRCUIT, WIRES, RESISTANCE, GAUGE_FACTOR, GRID_AREA, LEAD),
    "rosette": (ANGLES, WIRES, RESISTANCE, GAUGE_FACTOR, GRID_AREA, LEAD),
    "transducer": (
        CIRCUIT, WIRES, RESISTANCE, _figure("rated_output", "Rated output", "rated_output", MV_V),
        _quantity("capacity", "Capacity"),
        _figure("at_rest", "Output without load", "at_rest", MV_V, optional=True),
    ),
    "potentiometer": (RESISTANCE, _quantity("capacity", "Travel")),
    "inductive_half": (
        RESISTANCE, _figure("rated_output", "Rated output", "rated_output", MV_V),
        _quantity("capacity", "Capacity"),
    ),
    "pulses": (PULSES,),
    "loop": (_quantity("at_4_ma", "At 4 mA"), _quantity("at_20_ma", "At 20 mA"), WIRES),
    "voltage": (
        _figure("full_output", "Full output", "full_output", "V"),
        _quantity("capacity", "Capacity"),
    ),
    "platinum": (_figure("nominal", "At 0 °C", "nominal_ohm", "Ω"), WIRES),
    "digital": (SHOWN_IN,),
}  # fmt: skip

SPECS: dict[str, type[Spec]] = {
    str(spec.model_fields["kind"].default): spec for spec in get_args(get_args(SensorSpec)[0])
}

PICK_UP = {1: "supply +", 2: "pulses", 3: "supply −"}
TAPPED = {1: "excitation +", 4: "tap", 6: "excitation −"}
# What each pin is for, of sensors that are no bridges; those with a choice by their cores.
PINS: dict[str, dict[int, str]] = {
    "loop": {1: "supply +", 2: "loop back", 3: "supply −"},
    "voltage": {1: "output +", 2: "output −"},
    "platinum": {1: "current", 2: "back", 3: "back, lead", 4: "current back"},
    "potentiometer": TAPPED, "inductive_half": TAPPED, "pulses": PICK_UP, "digital": {},
}  # fmt: skip
USUAL_COLOURS = {1: "brown", 2: "yellow", 3: "white", 4: "green", 5: "grey", 6: "blue"}
QUARTER_COLOURS = {1: "brown", 4: "white", 5: "green"}
# With how paper shows them; on the screen they are tokens of their own (web/src/ui/tokens.css).
COLOURS = {
    "brown": "#7a4a26", "white": "#ffffff", "green": "#3f8a4b", "yellow": "#e3c52c",
    "grey": "#9a9a96", "blue": "#2d5db0", "red": "#b3322b", "black": "#2b2b2b",
    "pink": "#e79ab5", "violet": "#7d4f9e", "orange": "#e08a2e",
}  # fmt: skip


def functions(spec: Spec) -> dict[int, str]:
    """What each pin of a sensor's plug is for."""
    wires = getattr(spec, "wires", None)
    if (pins := PINS.get(spec.kind)) is not None:
        return {pin: function for pin, function in pins.items() if wires is None or pin <= wires}
    circuit = getattr(spec, "circuit", Circuit.QUARTER)
    return {core.pin: core.function for core in wiring_case(circuit, wires or 0).cores}


def cores_of(spec: Spec, colours: dict[int, str]) -> list[dict[str, Any]]:
    """The wire colour table; a pin without a colour of its own gets the usual one."""
    quarter = getattr(spec, "circuit", None) is Circuit.QUARTER or spec.kind == "rosette"
    usual = USUAL_COLOURS | (QUARTER_COLOURS if quarter else {})
    return [
        {"colour": colours.get(pin) or usual.get(pin, "grey"), "pin": pin, "function": function}
        for pin, function in functions(spec).items()
    ]
