from typing import Any

from django.conf import settings
from django.http import HttpRequest
from ninja import Router, Status

from yoke_server.accounts.actor import Actor
from yoke_server.bench import services
from yoke_server.bench.models import Bench, Device
from yoke_server.bench.schemas import BenchIn, BenchLine, BenchOut, DeviceIn, TakeYoke
from yoke_server.common.fields import Id

router = Router(tags=["bench"])


def bench_out(actor: Actor, bench_id: int) -> dict[str, Any]:
    bench = Bench.objects.select_related("yoke_holder").get(pk=bench_id)
    mine = services.holds_yoke(actor, bench)
    return {
        "id": bench.pk,
        "name": bench.name,
        "active_setup": bench.active_setup_id,
        "yoke_holder": services.holder_name(bench),
        "yoke_mine": mine,
        "yoke_me_elsewhere": bench.yoke_holder_id == actor.user.pk and not mine,
        "devices": [device_out(d) for d in bench.devices.prefetch_related("inputs")],
    }


def device_out(device: Device) -> dict[str, Any]:
    from yoke_server.bench.drivers.base import Capability
    from yoke_server.bench.drivers.registry import capabilities

    fields = {f.attname: getattr(device, f.attname) for f in device._meta.concrete_fields}
    no_use = set() if settings.STAND_INS else {Capability.PRETENDS}
    able = sorted(c.value for c in capabilities(device.driver) - no_use)
    return {**fields, "capabilities": able, "inputs": list(device.inputs.all())}


@router.get("/benches", response=list[BenchLine])
def list_benches(request: HttpRequest) -> list[dict[str, Any]]:
    me = Actor.of(request).user.pk
    benches = Bench.objects.order_by("name")[:200]
    return [{"id": b.pk, "name": b.name, "yoke_mine": b.yoke_holder_id == me} for b in benches]


@router.post("/benches", response={201: BenchOut})
def create_bench(request: HttpRequest, body: BenchIn) -> Status[Any]:
    actor = Actor.of(request)
    bench = services.create_bench(actor, body.name)
    return Status(201, bench_out(actor, bench.pk))


@router.get("/drivers", response=list[str])
def list_drivers(request: HttpRequest) -> list[str]:
    """What a device can be."""
    from yoke_server.bench.drivers.registry import names

    return names()


@router.put("/benches/{bench_id}/devices", response=BenchOut)
def put_device(request: HttpRequest, bench_id: Id, body: DeviceIn) -> dict[str, Any]:
    """Add a device, or tell where it answers now."""
    actor = Actor.of(request)
    services.put_device(actor, bench_id, **body.model_dump())
    return bench_out(actor, bench_id)


@router.delete("/devices/{device_id}", response={204: None})
def remove_device(request: HttpRequest, device_id: Id) -> Status[Any]:
    services.remove_device(Actor.of(request), device_id)
    return Status(204, None)


@router.get("/benches/{bench_id}", response=BenchOut)
def get_bench(request: HttpRequest, bench_id: Id) -> dict[str, Any]:
    return bench_out(Actor.of(request), bench_id)


@router.post("/benches/{bench_id}/yoke", response=BenchOut)
def take_yoke(request: HttpRequest, bench_id: Id, body: TakeYoke | None = None) -> dict[str, Any]:
    actor = Actor.of(request)
    services.take_yoke(actor, bench_id, reason=body.reason if body else "")
    return bench_out(actor, bench_id)


@router.delete("/benches/{bench_id}/yoke", response=BenchOut)
def hand_over(request: HttpRequest, bench_id: Id) -> dict[str, Any]:
    actor = Actor.of(request)
    services.hand_over(actor, bench_id)
    return bench_out(actor, bench_id)
