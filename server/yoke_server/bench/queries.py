"""Reads of benches and devices as the API gives them."""

from dataclasses import asdict
from typing import Any

from django.conf import settings
from django.db.models import Count, F

from yoke_server.accounts.actor import Actor
from yoke_server.bench.drivers import registry
from yoke_server.bench.drivers.base import Capability
from yoke_server.bench.models import Bench, Device
from yoke_server.bench.schemas import BenchLine, BenchOut, DeviceOut, DriverOut
from yoke_server.common.http.pages import PageOut, SortedPage, searched


def holds_yoke(actor: Actor, bench: Bench) -> bool:
    return bench.yoke_holder_id == actor.user.pk and bench.yoke_session == actor.session


def holder_name(bench: Bench) -> str:
    """The holder as people read it, or an empty string."""
    holder = bench.yoke_holder
    return (holder.get_full_name() or holder.username) if holder else ""


def benches(actor: Actor, page: SortedPage, *, archived: bool, search: str) -> PageOut[BenchLine]:
    """A page of benches, each with how many devices it has, and setups that are made for it."""
    rows = Bench.objects.filter(archived_at__isnull=not archived).select_related("yoke_holder")
    found = page.of(searched(rows, ("name",), search))
    keys = [b.pk for b in found.rows]
    devices, setups = (
        dict(Bench.objects.filter(pk__in=keys).annotate(n=Count(what)).values_list("pk", "n"))
        for what in ("devices", "setups")
    )
    return found.out(
        [
            BenchLine(
                id=b.pk,
                name=b.name,
                yoke_holder=holder_name(b),
                yoke_mine=b.yoke_holder_id == actor.user.pk,
                devices=devices[b.pk],
                setups=setups[b.pk],
                archived_at=b.archived_at,
            )
            for b in found.rows
        ]
    )


def bench_out(actor: Actor, bench_id: int) -> BenchOut:
    benches = Bench.objects.select_related("yoke_holder").annotate(works_with=F("active_setup__pk"))
    bench = benches.get(pk=bench_id)
    mine = holds_yoke(actor, bench)
    devices = list(bench.devices.prefetch_related("inputs"))
    twins = _twins(devices)
    return BenchOut.model_validate(
        {
            "id": bench.pk,
            "name": bench.name,
            "active_setup": bench.works_with,
            "yoke_holder": holder_name(bench),
            "yoke_mine": mine,
            "archived_at": bench.archived_at,
            "yoke_me_elsewhere": bench.yoke_holder_id == actor.user.pk and not mine,
            "devices": [_device_out(d, twins.get(d.pk, "")) for d in devices],
        }
    )


def _device_out(device: Device, twin: str) -> DeviceOut:
    fields = {f.attname: getattr(device, f.attname) for f in device._meta.concrete_fields}
    able = capabilities(device.driver)
    return DeviceOut.model_validate(
        {**fields, "twin": twin, "capabilities": able, "inputs": list(device.inputs.all())}
    )


def capabilities(driver: str) -> list[Capability]:
    """Of a driver's devices; faults of stand-ins only where stand-ins are."""
    no_use = set() if settings.STAND_INS else {Capability.PRETENDS}
    return sorted(registry.capabilities(driver) - no_use)


def _twins(devices: list[Device]) -> dict[int, str]:
    """By device, another one anywhere that says it is the same."""
    serials = {d.serial for d in devices if d.serial}
    others = list(Device.objects.filter(serial__in=serials).select_related("bench"))
    found: dict[int, str] = {}
    for device in devices:
        for other in others:
            same = (other.driver, other.serial) == (device.driver, device.serial)
            if same and other.pk != device.pk:
                found[device.pk] = f"{other.label} of {other.bench.name}"
    return found


def drivers() -> list[DriverOut]:
    """What a device can be."""
    return [
        DriverOut.model_validate(
            {**asdict(registry.offers(name)), "name": name, "capabilities": capabilities(name)}
        )
        for name in registry.names()
    ]


def known_of(found: list[dict[str, Any]]) -> list[dict[str, Any]]:
    """What was found on the network, with the bench and label that each has already."""
    rows = Device.objects.select_related("bench")
    by_serial = {(d.driver, d.serial): d for d in rows if d.serial}
    by_address = {(d.host, d.port): d for d in rows}
    return [
        _known(f, by_serial.get((f["driver"], f["serial"])), by_address.get((f["host"], f["port"])))
        for f in found
    ]


def _known(
    found: dict[str, Any], same: Device | None, in_its_place: Device | None
) -> dict[str, object]:
    device = same or in_its_place
    if device is None:
        return {**found, "on": "", "label": "", "moved": False}
    moved = (device.host, device.port) != (found["host"], found["port"])
    return {**found, "on": device.bench.name, "label": device.label, "moved": moved}
