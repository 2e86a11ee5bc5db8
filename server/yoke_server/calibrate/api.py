from typing import Any

from django.http import HttpRequest
from ninja import Router

from yoke_server.accounts.actor import Actor
from yoke_server.calibrate import schemas, services
from yoke_server.wire.queries import setup_out
from yoke_server.wire.schemas import SetupOut

router = Router(tags=["calibrate"])


@router.patch("/channels/{channel_id}/scaling", response=SetupOut)
def change_scaling(
    request: HttpRequest, channel_id: int, body: schemas.ScalingChange
) -> dict[str, Any]:
    changes = body.dict(exclude_none=True)
    channel = services.change_scaling(Actor.of(request), channel_id, **changes)
    return setup_out(channel.setup_id)


@router.post("/setups/{setup_id}/zero", response=list[schemas.Outcome])
def zero(request: HttpRequest, setup_id: int, body: schemas.Chosen) -> list[dict[str, Any]]:
    return services.zero(Actor.of(request), setup_id, body.channels)


@router.post("/setups/{setup_id}/shunt-check", response=list[schemas.Outcome])
def shunt_check(request: HttpRequest, setup_id: int, body: schemas.Chosen) -> list[dict[str, Any]]:
    return services.shunt_check(Actor.of(request), setup_id, body.channels)


@router.post("/setups/{setup_id}/tare", response=list[schemas.Outcome])
def tare(request: HttpRequest, setup_id: int, body: schemas.Chosen) -> list[dict[str, Any]]:
    return services.tare(Actor.of(request), setup_id, body.channels)
