"""Between the library's sensors and the data sheets in plugs (yoke_core/datasheet/)."""

import re
from collections.abc import Sequence
from datetime import date, timedelta
from typing import Any

from yoke_core.bridge.circuit import Circuit
from yoke_core.datasheet.sheet import DataSheet
from yoke_core.datasheet.templates import BRIDGE_SENSOR, STRAIN_GAUGE

from yoke_server.common.http.problems import Problem
from yoke_server.kinds.inputs.bridge.sensors import BridgeTransducer, GaugeSensor
from yoke_server.sensors.cores import cores_of
from yoke_server.sensors.models import Sensor
from yoke_server.sensors.record import tidy_text

OWN_MAKER = 16_000  # a number that no maker has: the sheet was written here
MAX_SERIAL = 2**24 - 1  # which itself means that none is told
# By measurand: what people call such a sensor, its quantity, and SI for one of it.
MEASURANDS = {
    "N": ("load cell", "force", 1.0),
    "lbf": ("load cell", "force", 4.4482216152605),
    "kgf": ("load cell", "force", 9.80665),
    "N m": ("torque sensor", "torque", 1.0),
    "m": ("displacement", "displacement", 1.0),
    "mm": ("displacement", "displacement", 1e-3),
    "Pa": ("pressure", "pressure", 1.0),
    "psi": ("pressure", "pressure", 6894.757293168),
    "m/s²": ("acceleration", "acceleration", 1.0),
    "g": ("acceleration", "acceleration", 9.80665),
}
WRITTEN_AS = {
    "force": "N",
    "torque": "N m",
    "displacement": "m",
    "extension": "m",
    "pressure": "Pa",
    "acceleration": "m/s²",
}
NEEDED = (
    "lowest",
    "highest",
    "output_at_lowest",
    "output_at_highest",
    "resistance_ohm",
    "gauge_factor",
)
BRIDGE_OF = {"q": "quarter", "h": "half", "f": "full"}  # by a circuit's first letter
CIRCUIT_OF = {
    "quarter": Circuit.QUARTER,
    "half": Circuit.HALF_BENDING,
    "full": Circuit.FULL_AXIAL,
}


def number_of(serial: str) -> int:
    """The number that a data sheet has for a serial: its figures."""
    figures = "".join(re.findall(r"\d", serial))
    return int(figures[-9:] or 0) % MAX_SERIAL


def sensor_of(sheet: DataSheet, sensors: Sequence[Sensor]) -> Sensor | None:
    """The library's sensor that a sheet is of: by the serial in its text, or else by its number.

    A number that several have is none.
    """
    if sheet.text:
        return next((s for s in sensors if s.serial == sheet.text), None)
    same = [s for s in sensors if number_of(s.serial) == sheet.serial]
    return same[0] if len(same) == 1 else None


def serial_of(sheet: DataSheet) -> str:
    return sheet.text or f"{sheet.manufacturer or 0}-{sheet.serial or 0}"


def to_sheet(sensor: Sensor) -> DataSheet:
    """Raises a 422 problem for a sensor that no data sheet of ours describes."""
    spec, values = sensor.spec, _common(sensor)
    if isinstance(spec, BridgeTransducer) and sensor.quantity in WRITTEN_AS:
        template = BRIDGE_SENSOR
        values |= {
            "measurand": WRITTEN_AS[sensor.quantity],
            "lowest": 0.0,
            "highest": spec.capacity,
            "output_at_lowest": 0.0,
            "output_at_highest": spec.rated_output,
        }
    elif isinstance(spec, GaugeSensor):
        template = STRAIN_GAUGE
        area = spec.grid_area_m2
        values |= {
            "lowest": -0.05,
            "highest": 0.05,
            "gauge_factor": spec.gauge_factor,
            "transverse_sensitivity": 0.0,
            "grid_area_mm2": area and area * 1e6,
        }
    else:
        raise Problem(
            422,
            f"There is no data sheet for a {sensor.kind} of this kind.",
            field="sensor",
            hint="Data sheets are of bridge sensors and strain gauges.",
        )
    values |= {
        "bridge": BRIDGE_OF[spec.circuit[0]],
        "resistance_ohm": spec.resistance_ohm,
    }
    return DataSheet(OWN_MAKER, 0, "", 0, number_of(sensor.serial), template, values, sensor.serial)


def _common(sensor: Sensor) -> dict[str, Any]:
    known = sensor.calibrated_on
    days = (sensor.due_on - known).days if known and sensor.due_on else None
    return {"calibrated_on": known, "calibration_days": days, "calibrated_by": None}


def to_sensor(sheet: DataSheet) -> Sensor:
    """A new sensor of the library, not saved; raises a 422 problem for what it cannot be."""
    values = dict(sheet.values)
    if untold := [name for name in NEEDED if name in values and values[name] is None]:
        raise _unfit(f"it does not tell its {untold[0].replace('_', ' ')}")
    if values["bridge"] not in CIRCUIT_OF:
        raise _unfit("its bridge is none that is known")
    if sheet.template == STRAIN_GAUGE:
        kind, quantity = "strain gauge", "strain"
        spec: GaugeSensor | BridgeTransducer = _gauge(values)
    else:
        kind, quantity, spec = _transducer(values)
    made = values.get("calibrated_on")
    calibrated_on = made if isinstance(made, date) else None
    days = values.get("calibration_days")
    lasts = timedelta(days=days) if isinstance(days, float) else None
    serial = tidy_text("serial", serial_of(sheet))
    return Sensor(
        kind=kind,
        name=f"{kind.capitalize()} {serial}"[:60],
        serial=serial,
        quantity=quantity,
        spec=spec,
        cores=cores_of(spec, {}),
        calibrated_on=calibrated_on,
        due_on=calibrated_on + lasts if calibrated_on and lasts else None,
    )


def _gauge(values: dict[str, Any]) -> GaugeSensor:
    circuit = CIRCUIT_OF[values["bridge"]]
    area = values["grid_area_mm2"]
    return _spec(
        GaugeSensor,
        circuit=circuit,
        wires=4 if circuit is Circuit.FULL_AXIAL else 3,
        resistance_ohm=values["resistance_ohm"],
        gauge_factor=values["gauge_factor"],
        grid_area_m2=area and area * 1e-6,
    )


def _transducer(values: dict[str, Any]) -> tuple[str, str, BridgeTransducer]:
    measurand = values["measurand"]
    if measurand not in MEASURANDS:
        raise _unfit(f"it measures {measurand}, which no sensor here does")
    kind, quantity, factor = MEASURANDS[measurand]
    span = values["highest"] - values["lowest"]
    if not span > 0:
        raise _unfit("its range is empty")
    rated = (values["output_at_highest"] - values["output_at_lowest"]) / span * values["highest"]
    circuit = CIRCUIT_OF[values["bridge"]]
    if quantity == "torque" and circuit is Circuit.FULL_AXIAL:
        circuit = Circuit.FULL_TORSION
    spec = _spec(
        BridgeTransducer,
        circuit=circuit,
        wires=6 if values["bridge"] == "full" else 3,
        resistance_ohm=values["resistance_ohm"],
        rated_output=rated,
        capacity=values["highest"] * factor,
    )
    return kind, quantity, spec


def _spec(shape: type[Any], **fields: Any) -> Any:
    """A spec of figures rounded to what a data sheet holds of them."""
    try:
        tidy = {k: float(f"{v:.7g}") if isinstance(v, float) else v for k, v in fields.items()}
        return shape(**tidy)
    except ValueError as error:
        raise _unfit("it says impossible things of its sensor") from error


def _unfit(why: str) -> Problem:
    return Problem(
        422,
        f"This data sheet makes no sensor: {why}.",
        field="sheet",
        hint="Add the sensor to the library by hand.",
    )
