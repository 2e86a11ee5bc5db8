from typing import Any

from django.http import HttpRequest
from ninja import Router, Status

from yoke_server.accounts.actor import Actor
from yoke_server.api.schemas import SetupOut
from yoke_server.api.setup_page import setup_out
from yoke_server.common.http.fields import Id
from yoke_server.wire import schemas, services

router = Router(tags=["wire"])


@router.post("/setups/{setup_id}/channels", response={201: SetupOut})
def add_channel(request: HttpRequest, setup_id: Id, body: schemas.ChannelIn) -> Status[Any]:
    services.add_channel(Actor.of(request), setup_id, **body.given())
    return Status(201, setup_out(setup_id))


@router.patch("/setups/{setup_id}/channels", response=SetupOut)
def change_channels(request: HttpRequest, setup_id: Id, body: schemas.ManyChannels) -> SetupOut:
    """Change many channels as one action: all of them or none, undone together."""
    changes = {c.id: c.given(but={"id"}) for c in body.channels}
    services.change_channels(Actor.of(request), setup_id, changes)
    return setup_out(setup_id)


@router.patch("/channels/{channel_id}", response=SetupOut)
def change_channel(request: HttpRequest, channel_id: Id, body: schemas.ChannelChange) -> SetupOut:
    changes = body.given()
    channel = services.change_channel(Actor.of(request), channel_id, **changes)
    return setup_out(channel.setup_id)


@router.delete("/channels/{channel_id}", response={204: None})
def remove_channel(request: HttpRequest, channel_id: Id) -> Status[Any]:
    services.remove_channel(Actor.of(request), channel_id)
    return Status(204, None)
