"""The library as the screens show it."""

from datetime import timedelta
from typing import Any

from django.db.models import Count, IntegerField, Q, QuerySet
from django.db.models.functions import Length
from django.forms.models import model_to_dict

from yoke_server.bench.models import Bench
from yoke_server.common.clock import laboratory_today
from yoke_server.common.pages import Rows, SortedPage, searched
from yoke_server.wire.calibration_status import SOON, rise_per_year
from yoke_server.wire.library.record import to_record
from yoke_server.wire.library.schemas import LibraryWanted
from yoke_server.wire.models import Certificate, Channel, Picture, Sensor
from yoke_server.wire.specs.sensor import kinds_giving

SEARCHED = ("kind", "serial", "name", "place")
ORDER = ("kind", "serial")


def sensors(limit: int, after: int | None, wanted: LibraryWanted) -> dict[str, Any]:
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
    return {**page.out(lines), "counts": _counts(rows, on_bench)}


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


def _counts(rows: "QuerySet[Sensor]", on_bench: dict[int, str]) -> dict[str, Any]:
    kinds = dict(rows.order_by().values("kind").annotate(n=Count("pk")).values_list("kind", "n"))
    there = rows.filter(pk__in=list(on_bench)).count()
    every = sum(kinds.values())
    return {
        "kind": kinds,
        "status": {name: rows.filter(sort).count() for name, sort in _statuses().items()},
        "where": {"bench": there, "store": every - there},
        "all": every,
    }


def _wired() -> dict[int, str]:
    active = Bench.objects.exclude(active_setup=None).values_list("active_setup_id", flat=True)
    rows = Channel.objects.filter(setup_id__in=list(active)).select_related("input__device")
    return {c.sensor_id: f"{c.input.device.label}.{c.input.number} {c.name}" for c in rows}


def _line(sensor: Sensor, where: str, calibrations: int) -> dict[str, Any]:
    return {
        "id": sensor.pk, "kind": sensor.kind, "name": sensor.name, "serial": sensor.serial,
        "quantity": sensor.quantity, "signal": sensor.signal, "spec": sensor.spec,
        "calibrated_on": sensor.calibrated_on, "due_on": sensor.due_on,
        "calibration_status": sensor.calibration_status,
        "cores": sensor.cores,
        "where": where, "place": sensor.place, "retired_at": sensor.retired_at,
        "calibrations": calibrations, "record": to_record(sensor),
    }  # fmt: skip


def sensor(sensor_id: int) -> dict[str, Any]:
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
    return {
        **line, "certificates": found,
        "rise_per_year": rise_per_year(outputs),
        "picture_id": Picture.objects.filter(sensor=row).values_list("pk", flat=True).first(),
    }  # fmt: skip
