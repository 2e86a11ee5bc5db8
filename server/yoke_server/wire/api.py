from dataclasses import asdict
from typing import Any

from django.http import HttpRequest
from ninja import Router, Status

from yoke_server.accounts.actor import Actor
from yoke_server.common.fields import Id
from yoke_server.common.units import SIGNAL_UNITS, UNITS, unit
from yoke_server.wire import projects, queries, schemas, services
from yoke_server.wire.naming import check_pattern
from yoke_server.wire.undoing import undo as undo_last

router = Router(tags=["wire"])


@router.get("/units", response=list[schemas.UnitOut])
def list_units(request: HttpRequest) -> list[dict[str, Any]]:
    """Every unit that quantities and signals are shown in: SI = value * factor + offset."""
    return [
        {**asdict(unit(name)), "quantity": quantity}
        for quantity, names in (UNITS | {k: (u,) for k, u in SIGNAL_UNITS.items()}).items()
        for name in names
    ]


@router.get("/setups/{setup_id}", response=schemas.SetupOut)
def get_setup(request: HttpRequest, setup_id: Id) -> dict[str, Any]:
    return queries.setup_out(setup_id)


@router.delete("/setups/{setup_id}", response={204: None})
def delete_setup(request: HttpRequest, setup_id: Id) -> Status[Any]:
    """For good; not one that has runs."""
    projects.delete_setup(Actor.of(request), setup_id)
    return Status(204, None)


@router.patch("/setups/{setup_id}", response=schemas.SetupOut)
def change_setup(request: HttpRequest, setup_id: Id, body: schemas.SetupChange) -> dict[str, Any]:
    changes = body.given()
    if "run_name_pattern" in changes:
        check_pattern(changes["run_name_pattern"])
    services.change_setup(Actor.of(request), setup_id, **changes)
    return queries.setup_out(setup_id)


@router.post("/setups/{setup_id}/bench", response=schemas.SetupOut)
def put_on_bench(request: HttpRequest, setup_id: Id) -> dict[str, Any]:
    """Have its bench work with this setup."""
    services.put_on_bench(Actor.of(request), setup_id)
    return queries.setup_out(setup_id)


@router.post("/setups/{setup_id}/channels", response={201: schemas.SetupOut})
def add_channel(request: HttpRequest, setup_id: Id, body: schemas.ChannelIn) -> Status[Any]:
    services.add_channel(Actor.of(request), setup_id, **body.given())
    return Status(201, queries.setup_out(setup_id))


@router.patch("/setups/{setup_id}/channels", response=schemas.SetupOut)
def change_channels(
    request: HttpRequest, setup_id: Id, body: schemas.ManyChannels
) -> dict[str, Any]:
    """Change many channels as one action: all of them or none, undone together."""
    changes = {c.id: c.given(but={"id"}) for c in body.channels}
    services.change_channels(Actor.of(request), setup_id, changes)
    return queries.setup_out(setup_id)


@router.patch("/setups/{setup_id}/devices/{device_id}", response=schemas.SetupOut)
def change_rate(
    request: HttpRequest, setup_id: Id, device_id: Id, body: schemas.RateChange
) -> dict[str, Any]:
    services.change_rate(Actor.of(request), setup_id, device_id, body.rate_hz)
    return queries.setup_out(setup_id)


@router.patch("/channels/{channel_id}", response=schemas.SetupOut)
def change_channel(
    request: HttpRequest, channel_id: Id, body: schemas.ChannelChange
) -> dict[str, Any]:
    changes = body.given()
    channel = services.change_channel(Actor.of(request), channel_id, **changes)
    return queries.setup_out(channel.setup_id)


@router.delete("/channels/{channel_id}", response={204: None})
def remove_channel(request: HttpRequest, channel_id: Id) -> Status[Any]:
    services.remove_channel(Actor.of(request), channel_id)
    return Status(204, None)


@router.post("/setups/{setup_id}/undo", response=schemas.Undone)
def undo(request: HttpRequest, setup_id: Id, redo: bool = False) -> dict[str, str]:
    return {"action": undo_last(Actor.of(request), setup_id, redo=redo)}
