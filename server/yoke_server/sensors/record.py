"""A sensor as a record of text fields, shared by the form and by tables in and out."""

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from yoke_core.errors import CoreError

from yoke_server.common.http.number_input import InvalidInput
from yoke_server.common.http.problems import Problem, reason
from yoke_server.kinds.channel_specs import SENSOR_TYPES, SENSORS, connections_of
from yoke_server.kinds.inputs.base import Sensor as SensorSpec
from yoke_server.kinds.text_fields import Field
from yoke_server.sensors.cores import COLOURS, cores_of
from yoke_server.sensors.models import Sensor

Record = Mapping[str, str]
OWN = ("kind", "name", "serial", "connection")
REST = ("cores", "place", "note")
COMPUTED = ("=", "+", "-", "@")
MAX_LENGTHS = {"name": 60, "serial": 40, "place": 60, "note": 200}


def all_fields() -> tuple[str, ...]:
    """The columns of a table of sensors, each field once."""
    of_specs = [f.name for spec in SENSORS.values() for f in spec.text_fields]
    return (*OWN, *dict.fromkeys(of_specs), *REST)


@dataclass(frozen=True, slots=True)
class Read:
    """What a record says, ready to be stored."""

    values: dict[str, Any]
    spec: SensorSpec


def to_record(sensor: Sensor) -> dict[str, str]:
    spec, quantity = sensor.spec, sensor.quantity
    found = {
        "kind": sensor.kind,
        "name": sensor.name,
        "serial": sensor.serial,
        "connection": spec.connection,
        "place": sensor.place,
        "note": sensor.note,
        "cores": ", ".join(f"{c['pin']} {c['colour']}" for c in sensor.cores),
    }
    for field in spec.text_fields:
        value = getattr(spec, field.of_spec)
        found[field.name] = "" if value is None else field.show(value, quantity)
    return found


def from_record(record: Record) -> Read:
    """Raises a 422 problem that names the field and says what is wrong with it."""
    kind = _one_of("kind", record.get("kind", ""), tuple(SENSOR_TYPES))
    quantity = SENSOR_TYPES[kind].quantity
    connections = {SENSORS[c].connection: c for c in connections_of(kind)}
    said = record.get("connection", "") or next(iter(connections))
    connection = connections[_one_of("connection", said, tuple(connections))]
    texts = {name: tidy_text(name, record.get(name, "")) for name in MAX_LENGTHS}
    for name in ("name", "serial"):
        if not texts[name]:
            raise _wrong(name, f"The {name} is missing.")
    spec = _spec(connection, quantity, record)
    try:
        cores = cores_of(spec, _colours(record.get("cores", "")))
    except CoreError as error:
        raise _wrong(error.argument, str(error)) from error
    values = {**texts, "kind": kind, "quantity": quantity, "cores": cores}
    return Read(values, spec)


def _spec(connection: str, quantity: str, record: Record) -> SensorSpec:
    plain: dict[str, object] = {"kind": connection}
    for field in SENSORS[connection].text_fields:
        text = str(record.get(field.name, "")).strip()
        if not text and (field.optional or not _needed(connection, field)):
            continue
        try:
            plain[field.of_spec] = field.read(text, quantity)
        except InvalidInput as why:
            raise _wrong(field.name, f"{field.label}: {why}.") from why
    try:
        return Sensor._meta.get_field("spec").read(plain)  # type: ignore[union-attr,no-any-return]
    except Problem as problem:
        at = next(
            (f for f in SENSORS[connection].text_fields if f.of_spec in (problem.field or "")), None
        )
        name = at.name if at else "connection"
        label = at.label if at else SENSORS[connection].connection
        raise _wrong(name, f"{label}: {reason(problem)}.") from problem


def _needed(connection: str, field: Field) -> bool:
    """Whether a spec has no value of its own for it."""
    return SENSORS[connection].model_fields[field.of_spec].is_required()


def _colours(text: str) -> dict[int, str]:
    found = {}
    for part in filter(None, (p.strip().lower() for p in re.split("[,;]", text))):
        pin, _, colour = part.partition(" ")
        colour = colour.strip()
        if not pin.isdigit() or colour not in COLOURS:
            raise _wrong(
                "cores",
                f"Cores: “{part[:40]}” is no pin and colour.",
                f"Write 1 brown, 4 white; colours are {', '.join(COLOURS)}.",
            )
        found[int(pin)] = colour
    return found


def tidy_text(name: str, text: str) -> str:
    """A text of a sensor; raises a 422 problem for one that is too long, or no plain text."""
    tidy = " ".join(str(text).split())
    if len(tidy) > MAX_LENGTHS[name]:
        raise _wrong(name, f"The {name} has more than {MAX_LENGTHS[name]} characters.")
    if tidy.startswith(COMPUTED):
        raise _wrong(
            name,
            f"The {name} begins with {tidy[0]}, which a spreadsheet would compute.",
            "Begin it with a letter or a figure.",
        )
    if not tidy.isprintable():
        raise _wrong(name, f"The {name} holds a character that cannot be printed.")
    return tidy


def _one_of(name: str, text: str, known: tuple[str, ...]) -> str:
    for one in known:
        if one.lower() == text.strip().lower():
            return one
    said = f"“{text[:40]}”" if text.strip() else "nothing"
    raise _wrong(name, f"The {name} says {said}.", f"Choose one of {', '.join(known)}.")


def _wrong(field: str, title: str, hint: str = "Put it right, then try again.") -> Problem:
    return Problem(422, title, field=field, hint=hint)
