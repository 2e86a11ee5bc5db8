"""The library as the screens show it."""

from typing import Any

from django.db.models import Count, IntegerField
from django.db.models.functions import Length
from django.forms.models import model_to_dict

from yoke_server.bench.models import Bench
from yoke_server.wire.library.record import to_record
from yoke_server.wire.models import Channel, Picture, Sensor
from yoke_server.wire.terms import rise_per_year

MOST = 2000


def sensors(retired: bool = False) -> list[dict[str, Any]]:
    """All instruments with where they are now: the input of the setup that is on a bench."""
    rows = Sensor.objects.filter(retired_at__isnull=not retired).order_by("kind", "serial")
    rows = rows.annotate(calibrations=Count("certificates"))[:MOST]
    on_bench = _wired()
    return [_line(s, on_bench.get(s.pk, "")) for s in rows]


def _wired() -> dict[int, str]:
    active = Bench.objects.exclude(active_setup=None).values_list("active_setup_id", flat=True)
    rows = Channel.objects.filter(setup_id__in=list(active)).select_related("input__device")
    return {c.sensor_id: f"{c.input.device.label}.{c.input.number} {c.name}" for c in rows}


def _line(sensor: Sensor, where: str) -> dict[str, Any]:
    return {
        "id": sensor.pk, "kind": sensor.kind, "name": sensor.name, "serial": sensor.serial,
        "quantity": sensor.quantity, "signal": sensor.signal, "spec": sensor.spec,
        "calibrated_on": sensor.calibrated_on, "due_on": sensor.due_on, "term": sensor.term,
        "cores": sensor.cores,
        "where": where, "place": sensor.place, "retired_at": sensor.retired_at,
        "calibrations": getattr(sensor, "calibrations", 0), "record": to_record(sensor),
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
    line = _line(row, _wired().get(row.pk, ""))
    outputs = [(c.calibrated_on, c.rated_output) for c in certificates if c.rated_output]
    return {
        **line, "calibrations": len(found), "certificates": found,
        "rise_per_year": rise_per_year(outputs),
        "picture_id": Picture.objects.filter(sensor=row).values_list("pk", flat=True).first(),
    }  # fmt: skip
