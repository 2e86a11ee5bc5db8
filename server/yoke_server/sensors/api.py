from dataclasses import asdict
from typing import Annotated, Any, Literal

from django.http import HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from ninja import Query, Router, Status
from pydantic import Field as Bounds

from yoke_server.accounts.actor import Actor
from yoke_server.common.clock import laboratory_today
from yoke_server.common.http.fields import Id, Name
from yoke_server.common.http.pages import DEFAULT_LIMIT, Cursor, Limit, PageOut, Search
from yoke_server.common.http.problems import Problem
from yoke_server.common.units import UNITS
from yoke_server.kinds.channel_specs import SENSOR_TYPES, SENSORS, connections_of
from yoke_server.kinds.inputs.base import Sensor as SensorSpec
from yoke_server.kinds.text_fields import Field
from yoke_server.sensors import pictures, queries, schemas, services, tables
from yoke_server.sensors.models import Certificate, Picture, Sensor
from yoke_server.sensors.schemas import SensorOut

router = Router(tags=["library"])
XLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
Place = Annotated[int, Bounds(ge=0, le=2**31)]
FileName = Annotated[str, Bounds(min_length=1, max_length=100, pattern=r"^[^/\\\x00-\x1f\"]+$")]


def _body(kind: str) -> dict[str, object]:
    content = {kind: {"schema": {"type": "string", "format": "binary"}}}
    return {"requestBody": {"required": True, "content": content}}


def _answer(kind: str) -> dict[str, object]:
    content = {kind: {"schema": {"type": "string", "format": "binary"}}}
    return {"responses": {200: {"description": "the file", "content": content}}}


@router.get("/sensor-kinds", response=list[schemas.SensorKindOut])
def list_kinds(request: HttpRequest) -> list[dict[str, object]]:
    """What a sensor may be, and which fields that needs."""
    return [
        {
            "name": name,
            "quantity": found.quantity,
            "unit": UNITS[found.quantity][0],
            "connections": [_connection(SENSORS[c], found.quantity) for c in connections_of(name)],
        }
        for name, found in SENSOR_TYPES.items()
    ]


def _connection(sensor: type[SensorSpec], quantity: str) -> dict[str, object]:
    fields = [_field(f, quantity) for f in sensor.text_fields]
    return {"name": sensor.connection, "fields": fields}


def _field(field: Field, quantity: str) -> dict[str, object]:
    unit = UNITS[quantity][0] if field.of_quantity else field.unit
    return {**asdict(field), "unit": unit}


@router.get("/sensors", response=PageOut[SensorOut])
def list_sensors(
    request: HttpRequest,
    signal: Name | Literal[""] = "",
    search: Search = "",
    after: Cursor = None,
    limit: Limit = DEFAULT_LIMIT,
) -> PageOut[SensorOut]:
    """Those in use, to be wired: all, or those whose signal an input measures."""
    page, today = queries.usable(limit, after, signal, search), laboratory_today()
    return page.out([queries.sensor_out(row, today) for row in page.rows])


@router.get("/library", response=schemas.LibraryPage)
def list_library(
    request: HttpRequest,
    wanted: Annotated[schemas.LibraryWanted, Query()],
    after: Cursor = None,
    limit: Limit = DEFAULT_LIMIT,
) -> schemas.LibraryPage:
    """By kind and serial; with how many there are of each sort."""
    return queries.sensors(limit, after, wanted)


@router.get("/library.csv", openapi_extra=_answer("text/csv"))
def export_csv(request: HttpRequest) -> HttpResponse:
    """The whole library, for a spreadsheet."""
    text = tables.to_csv(Sensor.objects.order_by("kind", "serial"))
    return _file(text.encode(), "text/csv; charset=utf-8", "sensors.csv")


@router.get("/library.xlsx", openapi_extra=_answer(XLSX))
def export_xlsx(request: HttpRequest) -> HttpResponse:
    content = tables.to_xlsx(Sensor.objects.order_by("kind", "serial"))
    return _file(content, XLSX, "sensors.xlsx")


@router.post(
    "/library/import",
    response=list[schemas.ImportedOut],
    openapi_extra=_body("application/octet-stream"),
)
def import_table(request: HttpRequest, dry: bool = True) -> list[dict[str, object]]:
    """A CSV or XLSX table of sensors, taken as a whole; with ``dry`` what it would do."""
    return services.import_table(Actor.of(request), request.body, dry=dry)


@router.post("/sensors", response={201: schemas.InstrumentOut})
def add_sensor(request: HttpRequest, body: schemas.RecordIn) -> Status[Any]:
    made = services.add_sensor(Actor.of(request), body.record)
    return Status(201, queries.sensor(made.pk))


@router.get("/sensors/{sensor_id}", response=schemas.InstrumentOut)
def get_sensor(request: HttpRequest, sensor_id: Id) -> schemas.InstrumentOut:
    return queries.sensor(sensor_id)


@router.patch("/sensors/{sensor_id}", response=schemas.InstrumentOut)
def change_sensor(
    request: HttpRequest, sensor_id: Id, body: schemas.RecordIn
) -> schemas.InstrumentOut:
    services.change_sensor(Actor.of(request), sensor_id, body.record)
    return queries.sensor(sensor_id)


@router.post("/sensors/{sensor_id}/retire", response=schemas.InstrumentOut)
def retire_sensor(
    request: HttpRequest, sensor_id: Id, restore: bool = False
) -> schemas.InstrumentOut:
    """Take it out of use, or with ``restore`` into use again."""
    services.retire_sensor(Actor.of(request), sensor_id, restore=restore)
    return queries.sensor(sensor_id)


@router.post("/sensors/{sensor_id}/certificates", response={201: schemas.InstrumentOut})
def add_certificate(
    request: HttpRequest, sensor_id: Id, body: schemas.CertificateIn
) -> Status[Any]:
    services.add_certificate(Actor.of(request), sensor_id, **body.model_dump())
    return Status(201, queries.sensor(sensor_id))


@router.put(
    "/certificates/{certificate_id}/file/{at}",
    response=schemas.InstrumentOut,
    openapi_extra=_body("application/octet-stream"),
)
def attach_part(
    request: HttpRequest,
    certificate_id: Id,
    at: Place,
    name: FileName = "certificate.pdf",
    size: Place = 0,
) -> schemas.InstrumentOut:
    """The bytes of the certificate's PDF from a place on, in parts of at most 192 kB."""
    row = services.attach_part(
        Actor.of(request), certificate_id, name=name, size=size, at=at, content=request.body
    )
    return queries.sensor(row.sensor_id)


@router.get("/certificates/{certificate_id}/file", openapi_extra=_answer("application/pdf"))
def certificate_file(request: HttpRequest, certificate_id: Id) -> HttpResponse:
    row = Certificate.objects.get(pk=certificate_id)
    if not row.has_file:
        raise Problem(404, f"Certificate {row.number} has no file.", hint="Attach it first.")
    return _file(bytes(row.file or b""), "application/pdf", row.file_name)


@router.put(
    "/sensors/{sensor_id}/picture",
    response=schemas.InstrumentOut,
    openapi_extra=_body("application/octet-stream"),
)
def give_picture(request: HttpRequest, sensor_id: Id) -> schemas.InstrumentOut:
    """A JPEG, PNG or WebP file of at most 256 kB; what is kept is a small JPEG of it."""
    pictures.give(Actor.of(request), sensor_id, request.body)
    return queries.sensor(sensor_id)


@router.delete("/sensors/{sensor_id}/picture", response=schemas.InstrumentOut)
def take_picture_away(request: HttpRequest, sensor_id: Id) -> schemas.InstrumentOut:
    pictures.take_away(Actor.of(request), sensor_id)
    return queries.sensor(sensor_id)


@router.get("/pictures/{picture_id}", openapi_extra=_answer("image/jpeg"))
def get_picture(request: HttpRequest, picture_id: Id) -> HttpResponse:
    image = bytes(Picture.objects.get(pk=picture_id).image)
    cached = {"Cache-Control": "private, max-age=31536000, immutable"}
    return HttpResponse(image, content_type="image/jpeg", headers=cached)


def _file(content: bytes, kind: str, name: str) -> HttpResponse:
    # Never shown as a page of our own: a file from outside is only handed out.
    return HttpResponse(
        content,
        content_type=kind,
        headers={"Content-Disposition": content_disposition_header(True, name) or ""},
    )
