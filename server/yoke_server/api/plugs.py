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
from yoke_server.kinds.orders.devices import Sheets
from yoke_server.sensors import queries as library
from yoke_server.sensors.schemas import InstrumentOut
from yoke_server.setups.models import Setup
from yoke_server.wire.plugs import schemas, services
from yoke_server.wire.plugs.reading import plugs_of

router = Router(tags=["wire"])


@router.post("/setups/{setup_id}/plugs", response=schemas.Plugs, auth=signed_in_async)
async def read_plugs(request: HttpRequest, setup_id: Id) -> dict[str, object]:
    """Read the data sheets in all plugs, and propose what follows for the setup."""
    orders = await in_thread(services.order_reading, Actor.of(request), setup_id)
    memories = {}
    for label, order in orders.items():
        memories[label] = (await answer_to(order, Sheets)).sheets

    def compared() -> list[dict[str, object]]:
        return plugs_of(Setup.objects.get(pk=setup_id), memories)

    return {"plugs": await in_thread(compared)}


@router.post("/setups/{setup_id}/moves", response=SetupOut)
def move_channels(request: HttpRequest, setup_id: Id, body: schemas.Moves) -> SetupOut:
    """Channels go to other inputs with their sensors."""
    moves = {m.channel_id: m.input_id for m in body.moves}
    services.move_channels(Actor.of(request), setup_id, moves)
    return setup_out(setup_id)


@router.post("/sensors/from-sheet", response={201: InstrumentOut})
def add_from_sheet(request: HttpRequest, body: schemas.Memory) -> Status[Any]:
    """A sensor new in the library, from what its plug says."""
    sensor = services.add_from_sheet(Actor.of(request), body.memory)
    return Status(201, library.sensor(sensor.pk))


@router.post("/channels/{channel_id}/sheet", response={204: None}, auth=signed_in_async)
async def write_sheet(request: HttpRequest, channel_id: Id) -> Status[Any]:
    """Write a channel's sensor into its plug's memory, and read it back."""
    order = await in_thread(services.order_writing, Actor.of(request), channel_id)
    await answer_to(order, Done)
    return Status(204, None)
