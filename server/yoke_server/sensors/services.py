"""Every change to the library."""

from dataclasses import dataclass, field
from datetime import UTC, date, datetime
from math import isclose
from typing import Any

from django.db import IntegrityError, transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.clock import laboratory_today
from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.http.fields import comparison_key
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.ledger.services import record
from yoke_server.sensors.models import Certificate, Sensor
from yoke_server.sensors.record import Read, Record, from_record, to_record
from yoke_server.sensors.stated import read_expanded, read_points
from yoke_server.sensors.tables import read_table

LARGEST_FILE = 4 << 20  # bytes
PDF = b"%PDF-"


def _told() -> None:
    notify(NEWS, kind="library")


@transaction.atomic
def add_sensor(actor: Actor, given: Record) -> Sensor:
    """An instrument, or a lot of gauges, new in the library."""
    require(actor, "keep the library")
    read = from_record(given)
    _require_new(read.values["serial"])
    sensor = Sensor.objects.create(spec=read.spec, **read.values)
    record(actor, f"Added {sensor.serial} to the library")
    _told()
    return sensor


def _require_new(serial: str, but: int = 0) -> None:
    if Sensor.objects.filter(serial__iexact=serial).exclude(pk=but).exists():
        raise Problem(
            409,
            f"The library has {serial} already.",
            code=ProblemType.EXISTS_ALREADY,
            field="serial",
            hint="Two instruments never have one serial: look at its plate again.",
        )


@transaction.atomic
def change_sensor(actor: Actor, sensor_id: int, given: Record) -> Sensor:
    """Change some fields; what channels have taken over of it stays as it is there."""
    require(actor, "keep the library")
    sensor = Sensor.objects.select_for_update().get(pk=sensor_id)
    before = to_record(sensor)
    read = from_record({**before, **given})
    if read.spec.kind != sensor.spec.kind and sensor.channel_set.exists():
        raise Problem(
            409,
            f"{sensor.serial} is wired as it is: its connection cannot change.",
            code=ProblemType.IN_USE,
            field="connection",
            hint="Take it off its inputs first.",
        )
    _require_new(read.values["serial"], but=sensor.pk)
    _take_over(sensor, read)
    changed = sorted(k for k, v in to_record(sensor).items() if before.get(k) != v)
    if changed:
        record(actor, f"Changed {', '.join(changed)} of {sensor.serial}")
        _told()
    return sensor


def _take_over(sensor: Sensor, read: Read) -> None:
    """What was read becomes the instrument's; raises a 409 problem where a certificate says
    otherwise."""
    _require_as_certified(sensor, read)
    for name, value in read.values.items():
        setattr(sensor, name, value)
    sensor.spec = read.spec  # type: ignore[assignment]
    sensor.save()


def _require_as_certified(sensor: Sensor, read: Read) -> None:
    """The rated output that the certificate in force states is changed by a new certificate alone;
    to the digits that people write."""
    certificate = sensor.newest_certificate
    if certificate is None or certificate.rated_output is None:
        return
    given = getattr(read.spec, "rated_output", 0.0)
    if not isclose(given, certificate.rated_output, rel_tol=1e-6):
        raise Problem(
            409,
            f"Certificate {certificate.number} states another rated output.",
            code=ProblemType.IN_USE,
            field="rated_output",
            hint="An engineer adds the new certificate; that changes it.",
        )


@transaction.atomic
def retire_sensor(actor: Actor, sensor_id: int, *, restore: bool = False) -> Sensor:
    """Take it out of use, or into use again; runs that it was in still know it."""
    require(actor, "keep the library")
    sensor = Sensor.objects.select_for_update().get(pk=sensor_id)
    wired = sensor.channel_set.select_related("setup__project").first()
    if wired and not restore:
        raise Problem(
            409,
            f"{sensor.serial} is wired in {wired.setup.name} of {wired.setup.project.name}.",
            code=ProblemType.IN_USE,
            hint="Take it off its input first.",
        )
    sensor.retired_at = None if restore else datetime.now(UTC)
    sensor.save(update_fields=["retired_at"])
    record(actor, f"{'Took into' if restore else 'Took out of'} use {sensor.serial}")
    _told()
    return sensor


@dataclass(frozen=True, slots=True)
class Stated:
    """What a certificate says of its instrument.

    expanded : relative expanded uncertainty (k = 2) of what it reads
    points : (load, signal), SI
    rated_output : V/V
    """

    expanded: float | None = None
    instrument_class: str = ""
    points: list[list[float]] = field(default_factory=list)
    rated_output: float | None = None


@transaction.atomic
def add_certificate(
    actor: Actor,
    sensor_id: int,
    *,
    number: str,
    calibrated_on: date,
    due_on: date | None,
    rated_output: str = "",
    expanded: str = "",
    instrument_class: str = "",
    points: str = "",
    stated: Stated | None = None,
) -> Certificate:
    """A new calibration; the newest one is in force for the instrument from now on.

    rated_output, expanded, instrument_class, points : as somebody typed them from paper, where
        there is no ``stated``
    Channels keep the scaling that they have: it is changed in Calibrate, by an engineer.
    """
    require(actor, "keep certificates")
    sensor = Sensor.objects.select_for_update().get(pk=sensor_id)
    _check_dates(calibrated_on, due_on)
    if stated is None:
        stated = Stated(
            read_expanded(expanded),
            instrument_class.strip(),
            read_points(sensor, points),
            _rated(sensor, rated_output),
        )
    try:
        with transaction.atomic():
            made = Certificate.objects.create(
                sensor=sensor,
                number=number,
                calibrated_on=calibrated_on,
                due_on=due_on,
                rated_output=stated.rated_output,
                expanded=stated.expanded,
                instrument_class=stated.instrument_class,
                points=stated.points,
                actor=actor.user,
            )
    except IntegrityError as error:
        raise Problem(
            409,
            f"{sensor.serial} has a certificate {number} already.",
            code=ProblemType.NAME_TAKEN,
            field="number",
            hint="Look at its number again.",
        ) from error
    _bring_in_force(sensor)
    record(actor, f"Added certificate {number} of {sensor.serial}")
    _told()
    return made


def _rated(sensor: Sensor, text: str) -> float | None:
    """A certificate's rated output as somebody typed it, in V/V; none where it is left empty."""
    if not text.strip():
        return None
    if sensor.spec.with_rated_output(1.0) is None:
        raise Problem(
            422,
            f"{sensor.serial} has no rated output.",
            field="rated_output",
            hint="Leave it empty.",
        )
    read = from_record({**to_record(sensor), "rated_output": text})
    return float(getattr(read.spec, "rated_output"))  # noqa: B009 (of a transducer)


def _check_dates(calibrated_on: date, due_on: date | None) -> None:
    if calibrated_on > laboratory_today():
        raise Problem(
            422,
            "The calibration lies in the future.",
            field="calibrated_on",
            hint="Give the date on the certificate.",
        )
    if due_on and due_on <= calibrated_on:
        raise Problem(
            422,
            "It is due before it was calibrated.",
            field="due_on",
            hint="Give a later date, or none.",
        )


def _bring_in_force(sensor: Sensor) -> None:
    newest = sensor.newest_certificate
    assert newest is not None
    sensor.calibrated_on, sensor.due_on = newest.calibrated_on, newest.due_on
    rated = newest.rated_output
    if rated is not None and (changed := sensor.spec.with_rated_output(rated)):
        sensor.spec = changed
    sensor.save()


@transaction.atomic
def attach_part(
    actor: Actor, certificate_id: int, *, name: str, size: int, at: int, content: bytes
) -> Certificate:
    """The bytes from ``at`` on of the certificate's own PDF; whole, it is kept for good.

    A part that comes again after a broken link is one part.
    """
    require(actor, "keep certificates")
    row = Certificate.objects.select_for_update().select_related("sensor").get(pk=certificate_id)
    _check_file(row, name, size, at, content)
    here = b"" if at == 0 else bytes(row.file or b"")
    if at > len(here):
        raise Problem(
            409,
            f"{name} lacks what comes before byte {at}.",
            code=ProblemType.OUT_OF_ORDER,
            field="file",
            hint="Send it from its beginning.",
        )
    row.file, row.file_name, row.file_size = here[:at] + content, name, size
    row.save(update_fields=["file", "file_name", "file_size"])
    if row.has_file:
        record(actor, f"Attached {name} to certificate {row.number} of {row.sensor.serial}")
        _told()
    return row


def _check_file(row: Certificate, name: str, size: int, at: int, content: bytes) -> None:
    if row.has_file:
        raise Problem(
            409,
            f"Certificate {row.number} has its file already.",
            code=ProblemType.EXISTS_ALREADY,
            field="file",
            hint="Add a new certificate: what was calibrated does not change.",
        )
    if size > LARGEST_FILE:
        most = LARGEST_FILE >> 20
        raise Problem(
            413,
            f"{name} has {size / 2**20:.1f} MB, more than {most} MB.",
            field="file",
            hint="Save it with smaller pictures.",
        )
    if at == 0 and not content.startswith(PDF):
        raise Problem(422, f"{name} is no PDF.", field="file", hint="Choose the PDF file of it.")
    if at + len(content) > size:
        raise Problem(
            422, f"{name} is longer than was said.", field="file", hint="Send it once more."
        )


def import_table(actor: Actor, content: bytes, *, dry: bool) -> list[dict[str, Any]]:
    """Take a table of sensors, all of it or nothing; with ``dry`` say what it would do."""
    require(actor, "keep the library")
    return _import(actor, read_table(content), dry=dry)


@transaction.atomic
def _import(actor: Actor, records: list[Record], *, dry: bool) -> list[dict[str, Any]]:
    known = {comparison_key(s.serial): s for s in Sensor.objects.all()}
    seen: set[str] = set()
    outcomes = []
    for line, given in enumerate(records, start=2):
        try:
            outcomes.append(_import_one(given, known, seen, line))
        except Problem as problem:
            outcomes.append(
                {
                    "line": line,
                    "serial": given.get("serial", "")[:40],
                    "outcome": "refused",
                    "field": problem.field or "",
                    "why_not": problem.title,
                }
            )
    refused = [o for o in outcomes if o["outcome"] == "refused"]
    if refused and not dry:
        first = refused[0]
        raise Problem(
            422,
            f"Line {first['line']}, {first['field']}: {first['why_not']}",
            field=first["field"],
            hint="Put it right in the file; nothing was taken.",
        )
    if dry:
        transaction.set_rollback(True)
    elif taken := [o for o in outcomes if o["outcome"] != "same"]:
        record(actor, f"Imported {len(taken)} sensors into the library")
        _told()
    return outcomes


def _import_one(
    given: Record, known: dict[str, Sensor], seen: set[str], line: int
) -> dict[str, Any]:
    read = from_record(given)
    serial = read.values["serial"]
    if comparison_key(serial) in seen:
        raise Problem(422, f"{serial} stands in the file twice.", field="serial")
    seen.add(comparison_key(serial))
    sensor = known.get(comparison_key(serial))
    said = {"line": line, "serial": serial, "field": "", "why_not": ""}
    if sensor and sensor.serial != serial:
        raise Problem(422, f"The library has {sensor.serial}, which reads alike.", field="serial")
    if sensor is None:
        Sensor.objects.create(spec=read.spec, **read.values)
        return said | {"outcome": "new"}
    if read.spec == sensor.spec and all(getattr(sensor, k) == v for k, v in read.values.items()):
        return said | {"outcome": "same"}
    if read.spec.kind != sensor.spec.kind:
        raise Problem(422, f"{serial} is connected another way here.", field="connection")
    _take_over(sensor, read)
    return said | {"outcome": "changed"}
