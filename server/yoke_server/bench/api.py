from functools import partial
from typing import Any

from django.http import HttpRequest
from ninja import Router, Status

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.signed_in import signed_in_async
from yoke_server.bench import queries, services
from yoke_server.bench.models import Bench
from yoke_server.bench.orders import DiscoveredDevices, Trial
from yoke_server.bench.schemas import (
    AddressIn,
    BenchIn,
    BenchLine,
    BenchOut,
    BenchText,
    BenchTextOut,
    Changes,
    DeviceIn,
    DiscoveredOut,
    DriverOut,
    TakeYoke,
    TrialOut,
)
from yoke_server.bench.text_file import services as text_file
from yoke_server.bench.text_file.shape import schema
from yoke_server.bench.waiting import answer_to, in_thread
from yoke_server.common.http.fields import Id
from yoke_server.common.http.pages import DEFAULT_LIMIT, Cursor, Limit, PageOut, Search, SortedPage

router = Router(tags=["bench"])


@router.get("/benches", response=PageOut[BenchLine])
def list_benches(
    request: HttpRequest,
    archived: bool = False,
    search: Search = "",
    after: Cursor = None,
    limit: Limit = DEFAULT_LIMIT,
) -> PageOut[BenchLine]:
    """By name: those in use, or those that were put away."""
    page = SortedPage(("name",), limit, after)
    return queries.benches(Actor.of(request), page, archived=archived, search=search)


@router.post("/benches", response={201: BenchOut})
def create_bench(request: HttpRequest, body: BenchIn) -> Status[Any]:
    actor = Actor.of(request)
    bench = services.create_bench(actor, body.name)
    return Status(201, queries.bench_out(actor, bench.pk))


@router.get("/drivers", response=list[DriverOut])
def list_drivers(request: HttpRequest) -> list[DriverOut]:
    """What a device can be."""
    return queries.drivers()


@router.post("/benches/{bench_id}/find", response=DiscoveredOut, auth=signed_in_async)
async def find_devices(request: HttpRequest, bench_id: Id) -> dict[str, object]:
    """Which devices announce themselves on the network of the bench's computer."""
    order = await in_thread(services.order_find, Actor.of(request), bench_id)
    found = await answer_to(order, DiscoveredDevices)
    return {"devices": await in_thread(queries.known_of, found.devices)}


@router.post("/benches/{bench_id}/try", response=TrialOut, auth=signed_in_async)
async def try_address(request: HttpRequest, bench_id: Id, body: AddressIn) -> dict[str, object]:
    """Whether a device answers at an address, and what it reads; nothing is changed by it."""
    actor = Actor.of(request)
    order = await in_thread(partial(services.order_trial, actor, bench_id, **body.model_dump()))
    return (await answer_to(order, Trial)).model_dump()


@router.get("/bench-file/schema", response=dict[str, object])
def bench_file_schema(request: HttpRequest) -> dict[str, object]:
    """JSON Schema of a bench file."""
    return schema()


@router.get("/benches/{bench_id}/file", response=BenchTextOut)
def write_bench(request: HttpRequest, bench_id: Id) -> BenchTextOut:
    """The bench as a text that can be kept, changed and read again."""
    return BenchTextOut(text=text_file.write_bench_file(Bench.objects.get(pk=bench_id)))


@router.post("/benches/{bench_id}/file/preview", response=Changes)
def preview_bench(request: HttpRequest, bench_id: Id, body: BenchText) -> Changes:
    """What a text would do to the bench."""
    return Changes(changes=text_file.preview(Actor.of(request), bench_id, body.text))


@router.put("/benches/{bench_id}/file", response=Changes)
def read_bench(request: HttpRequest, bench_id: Id, body: BenchText) -> Changes:
    """Make the bench have the devices of a text, as a whole or not at all."""
    return Changes(changes=text_file.apply(Actor.of(request), bench_id, body.text))


@router.put("/benches/{bench_id}/devices", response=BenchOut)
def put_device(request: HttpRequest, bench_id: Id, body: DeviceIn) -> BenchOut:
    """Add a device, or tell where it answers now."""
    actor = Actor.of(request)
    services.put_device(actor, bench_id, **body.model_dump())
    return queries.bench_out(actor, bench_id)


@router.delete("/devices/{device_id}", response={204: None})
def remove_device(request: HttpRequest, device_id: Id) -> Status[Any]:
    services.remove_device(Actor.of(request), device_id)
    return Status(204, None)


@router.get("/benches/{bench_id}", response=BenchOut)
def get_bench(request: HttpRequest, bench_id: Id) -> BenchOut:
    return queries.bench_out(Actor.of(request), bench_id)


@router.delete("/benches/{bench_id}", response={204: None})
def remove_bench(request: HttpRequest, bench_id: Id) -> Status[Any]:
    """One that no setup was ever made for; others can be archived."""
    services.remove_bench(Actor.of(request), bench_id)
    return Status(204, None)


@router.post("/benches/{bench_id}/archive", response=BenchOut)
def archive_bench(request: HttpRequest, bench_id: Id, restore: bool = False) -> BenchOut:
    """Put a bench away, or take it out again."""
    actor = Actor.of(request)
    services.archive_bench(actor, bench_id, restore=restore)
    return queries.bench_out(actor, bench_id)


@router.post("/benches/{bench_id}/yoke", response=BenchOut)
def take_yoke(request: HttpRequest, bench_id: Id, body: TakeYoke | None = None) -> BenchOut:
    actor = Actor.of(request)
    services.take_yoke(actor, bench_id, reason=body.reason if body else "")
    return queries.bench_out(actor, bench_id)


@router.delete("/benches/{bench_id}/yoke", response=BenchOut)
def hand_over(request: HttpRequest, bench_id: Id) -> BenchOut:
    actor = Actor.of(request)
    services.hand_over(actor, bench_id)
    return queries.bench_out(actor, bench_id)
