"""The library as the screens show it."""

from datetime import date, timedelta

from django.db.models import Count, IntegerField, Q, QuerySet
from django.db.models.functions import Length
from django.forms.models import model_to_dict

from yoke_server.common.clock import laboratory_today
from yoke_server.common.http.pages import Rows, SortedPage, searched
from yoke_server.kinds.channel_specs import kinds_giving
from yoke_server.sensors.calibration_status import SOON, rise_per_year, status_of
from yoke_server.sensors.models import Certificate, Picture, Sensor
from yoke_server.sensors.record import to_record
from yoke_server.sensors.schemas import (
    InstrumentOut,
    LibraryCounts,
    LibraryLine,
    LibraryPage,
    LibraryWanted,
    SensorOut,
)

SEARCHED = ("kind", "serial", "name", "place")
ORDER = ("kind", "serial")


def sensors(limit: int, after: int | None, wanted: LibraryWanted) -> LibraryPage:
    """A page of the library by kind and serial, with where each instrument is now (the input of
    the setup that is on a bench), and how many there are of each sort."""
    rows, on_bench = Sensor.objects.filter(retired_at__isnull=not wanted.retired), _wired()
    found = searched(rows, SEARCHED, wanted.search)
    if wanted.kind:
        found = found.filter(kind=wanted.kind)
    if wanted.status:
        found = found.filter(_statuses()[wanted.status])
    if wanted.where:
        is_there = Q(pk__in=list(on_bench))
        found = found.filter(is_there if wanted.where == "bench" else ~is_there)
    page = SortedPage(ORDER, limit, after).of(found)
    calibrations = _calibrations(page.rows)
    lines = [_line(s, on_bench.get(s.pk, ""), calibrations.get(s.pk, 0)) for s in page.rows]
    return LibraryPage.model_validate({**dict(page.out(lines)), "counts": _counts(rows, on_bench)})


def usable(limit: int, after: int | None, signal: str, search: str) -> Rows[Sensor]:
    """A page of those in use that an input for the signal can measure, or of all."""
    rows = Sensor.objects.filter(retired_at=None)
    if signal:
        rows = rows.filter(spec__kind__in=kinds_giving(signal))
    return SortedPage(ORDER, limit, after).of(searched(rows, SEARCHED, search))


def _statuses() -> dict[str, Q]:
    """How a calibration stands today, as `status_of` says it."""
    today = laboratory_today()
    soon = today + timedelta(days=SOON)
    return {
        "without": Q(due_on=None),
        "overdue": Q(due_on__lt=today),
        "soon": Q(due_on__range=(today, soon)),
        "in force": Q(due_on__gt=soon),
    }


def _calibrations(page: list[Sensor]) -> dict[int, int]:
    of_page = Certificate.objects.filter(sensor__in=page).values("sensor_id")
    return dict(of_page.annotate(n=Count("pk")).values_list("sensor_id", "n"))


def _counts(rows: "QuerySet[Sensor]", on_bench: dict[int, str]) -> LibraryCounts:
    kinds = dict(rows.order_by().values("kind").annotate(n=Count("pk")).values_list("kind", "n"))
    there = rows.filter(pk__in=list(on_bench)).count()
    every = sum(kinds.values())
    return LibraryCounts.model_validate(
        {
            "kind": kinds,
            "status": {name: rows.filter(sort).count() for name, sort in _statuses().items()},
            "where": {"bench": there, "store": every - there},
            "all": every,
        }
    )


def _wired() -> dict[int, str]:
    device, number = "channel__input__device__label", "channel__input__number"
    rows = Sensor.objects.filter(channel__setup__on_bench__isnull=False).order_by(device, number)
    places = rows.values_list("pk", device, number, "channel__name")
    return {pk: f"{label}.{input_number} {name}" for pk, label, input_number, name in places}


def _line(sensor: Sensor, where: str, calibrations: int) -> LibraryLine:
    return LibraryLine.model_validate(
        {
            **{name: getattr(sensor, name) for name in SensorOut.model_fields},
            "where": where,
            "place": sensor.place,
            "retired_at": sensor.retired_at,
            "calibrations": calibrations,
            "record": to_record(sensor),
        }
    )


def sensor(sensor_id: int) -> InstrumentOut:
    """One instrument with its certificates, without their files."""
    row = Sensor.objects.get(pk=sensor_id)
    length = Length("file", output_field=IntegerField())
    certificates = row.certificates.defer("file").annotate(length=length)
    found = [
        {**model_to_dict(c, exclude=["file"]), "has_file": c.file_size and c.length == c.file_size}
        for c in certificates
    ]
    line = _line(row, _wired().get(row.pk, ""), len(found))
    outputs = [(c.calibrated_on, c.rated_output) for c in certificates if c.rated_output]
    return InstrumentOut.model_validate(
        {
            **dict(line),
            "certificates": found,
            "rise_per_year": rise_per_year(outputs),
            "picture_id": Picture.objects.filter(sensor=row).values_list("pk", flat=True).first(),
        }
    )


def sensor_out(sensor: Sensor, today: date) -> SensorOut:
    """A sensor as a channel shows it; its calibration as it stands ``today``."""
    status = status_of(sensor.calibrated_on, sensor.due_on, today)
    names = SensorOut.model_fields.keys() - {"calibration_status"}
    fields = {name: getattr(sensor, name) for name in names}
    return SensorOut.model_validate(fields | {"calibration_status": status})
