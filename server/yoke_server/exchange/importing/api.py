from typing import Annotated, Any
from uuid import UUID

from django.http import HttpRequest
from ninja import Router, Status
from pydantic import Field

from yoke_server.accounts.actor import Actor
from yoke_server.common.http.fields import Id
from yoke_server.exchange import schemas
from yoke_server.exchange.importing import orders, storage
from yoke_server.exchange.importing.choices import Choices
from yoke_server.exchange.models import ImportedFile

router = Router(tags=["exchange"])
AT = Annotated[int, Field(ge=0, le=2**53)]
BYTES = {
    "requestBody": {
        "required": True,
        "content": {"application/octet-stream": {"schema": {"type": "string", "format": "binary"}}},
    }
}


@router.post("/setups/{setup_id}/files", response={201: schemas.FileOut})
def announce_file(request: HttpRequest, setup_id: Id, body: schemas.FileAnnounced) -> Status[Any]:
    """A file is about to come, in parts of at most 192 kB."""
    file = storage.announce(Actor.of(request), setup_id, body.name, body.size)
    return Status(201, file)


@router.put("/files/{key}/parts/{at}", response=schemas.FileOut, openapi_extra=BYTES)
def add_file_part(request: HttpRequest, key: UUID, at: AT) -> ImportedFile:
    """The bytes of a file from a place on; sent again after a broken link, a part is one."""
    return storage.add_part(Actor.of(request), str(key), at, request.body)


@router.get("/files/{key}", response=schemas.FileOut)
def file_state(request: HttpRequest, key: UUID) -> ImportedFile:
    return storage.own(Actor.of(request), str(key))


@router.post("/files/{key}/preview", response=schemas.ImportPreviewOut)
def preview_file(request: HttpRequest, key: UUID, body: Choices) -> dict[str, object]:
    """A preview of the file; what was not chosen is guessed, with the reason."""
    return orders.preview_out(orders.preview(Actor.of(request), str(key), body))


@router.post("/files/{key}/run", response={202: schemas.FileOut})
def make_run_of_file(request: HttpRequest, key: UUID, body: Choices) -> Status[Any]:
    """Have the worker make a run of it."""
    return Status(202, orders.order_run(Actor.of(request), str(key), body))


@router.delete("/files/{key}", response={204: None})
def drop_file(request: HttpRequest, key: UUID) -> Status[Any]:
    orders.drop(Actor.of(request), str(key))
    return Status(204, None)
