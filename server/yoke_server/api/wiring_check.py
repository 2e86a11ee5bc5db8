from typing import Any

from django.http import HttpRequest
from ninja import Router, Status

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.signed_in import signed_in_async
from yoke_server.api.schemas import SetupOut
from yoke_server.api.setup_page import setup_out
from yoke_server.bench.orders import Done
from yoke_server.bench.waiting import answer_to, in_thread
from yoke_server.common.http.fields import Id
from yoke_server.kinds.orders.measuring import WiringReadings
from yoke_server.wire.check import schemas, services

router = Router(tags=["wire"])


@router.post("/setups/{setup_id}/wiring-check", response=SetupOut, auth=signed_in_async)
async def check_wiring(request: HttpRequest, setup_id: Id, body: schemas.ToCheck) -> SetupOut:
    """Measure the wiring of channels, all at once, and say which wire is wrong."""
    actor = Actor.of(request)
    order = await in_thread(services.order_check, actor, setup_id, body.channels)
    found = await answer_to(order, WiringReadings)
    await in_thread(services.keep_checks, actor, setup_id, found.root, order.arguments["of"])
    return await in_thread(setup_out, setup_id)


@router.post("/devices/{device_id}/faults", response={204: None}, auth=signed_in_async)
async def pretend(request: HttpRequest, device_id: Id, body: schemas.Faults) -> Status[Any]:
    """Have an input of a stand-in be wrong in some way; no faults make it well."""
    actor = Actor.of(request)
    order = await in_thread(services.order_faults, actor, device_id, body.input, body.faults)
    await answer_to(order, Done)
    return Status(204, None)
