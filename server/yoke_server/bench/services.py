"""The yoke of a bench, and orders to its recorder."""

import time
from datetime import UTC, datetime, timedelta
from typing import Any

from django.conf import settings
from django.db import transaction
from django.db.models import ProtectedError

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import Role, User
from yoke_server.accounts.rights import require
from yoke_server.bench.address import is_line, spoken
from yoke_server.bench.drivers import registry
from yoke_server.bench.drivers.base import Capability
from yoke_server.bench.hooks import require_unlocked
from yoke_server.bench.models import Bench, Device, Input, Link, Order
from yoke_server.bench.orders import FindDevices, OrderSpec, TryAddress
from yoke_server.bench.queries import holder_name, holds_yoke
from yoke_server.common.clock import clock_timestamp, waited_s
from yoke_server.common.db.notify import COMMAND, NEWS, notify
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.ledger.services import record


def require_yoke(actor: Actor, bench: Bench) -> None:
    """Raise a 409 problem naming the holder unless this browser holds the yoke."""
    if holds_yoke(actor, bench):
        return
    if bench.yoke_holder is None:
        raise Problem(
            409,
            f"Nobody holds the yoke of {bench.name}.",
            code=ProblemType.YOKE_NEEDED,
            hint="Take the yoke, then try again.",
        )
    raise Problem(
        409,
        f"{holder_name(bench)} holds the yoke of {bench.name}.",
        code=ProblemType.YOKE_NEEDED,
        hint="Ask for it to be handed over; until then you watch.",
    )


def require_in_use(bench: Bench) -> None:
    """Raise a 409 problem for a bench that was put away."""
    if bench.archived_at:
        raise Problem(
            409,
            f"{bench.name} is archived.",
            code=ProblemType.OUT_OF_USE,
            hint="An engineer can take it out again, in Projects.",
        )


@transaction.atomic
def take_yoke(actor: Actor, bench_id: int, *, reason: str = "") -> None:
    """Take a free yoke, or one's own from another browser.

    An engineer may take it from anybody, with a reason, which the ledger keeps.
    """
    require(actor, "drive the bench")
    bench = (
        Bench.objects.select_for_update(of=("self",)).select_related("yoke_holder").get(pk=bench_id)
    )
    require_in_use(bench)
    held_by_other = bench.yoke_holder_id not in (None, actor.user.pk)
    if held_by_other and not (reason and actor.user.role == Role.ENGINEER):
        require_yoke(actor, bench)
    if holds_yoke(actor, bench):
        return
    whose = f" from {holder_name(bench)}: {reason}" if held_by_other else ""
    _give(bench, actor)
    record(actor, f"Took the yoke of {bench.name}{whose}")


@transaction.atomic
def hand_over(actor: Actor, bench_id: int) -> None:
    """Let go of the yoke, so that somebody else can take it."""
    bench = (
        Bench.objects.select_for_update(of=("self",)).select_related("yoke_holder").get(pk=bench_id)
    )
    require_yoke(actor, bench)
    _give(bench, None)
    record(actor, f"Let go of the yoke of {bench.name}")


def on_rights_ended(sender: type, session: str, user: User | None, **more: object) -> None:
    """The yokes of a session that ended, or of all sessions of a person, are let go."""
    benches = Bench.objects.select_for_update(of=("self",)).exclude(yoke_holder=None)
    held = benches.filter(yoke_holder=user) if user else benches.filter(yoke_session=session)
    for bench in held:
        record(None, f"{holder_name(bench)} let go of the yoke of {bench.name} by leaving")
        _give(bench, None)


def _give(bench: Bench, actor: Actor | None) -> None:
    bench.yoke_holder = actor.user if actor else None
    bench.yoke_session = actor.session if actor else ""
    bench.save(update_fields=["yoke_holder", "yoke_session"])
    notify(NEWS, kind="bench", bench=bench.pk)


def send(actor: Actor, bench: Bench, wanted: OrderSpec, *, seconds: float | None = None) -> Order:
    """Give the recorder an order, to be carried out within ``seconds`` of the request or never.

    The recorder hears of it when this transaction commits.
    """
    waited, life = waited_s(), seconds or settings.ORDER_SECONDS
    order = Order.objects.create(
        bench=bench,
        kind=wanted.kind,
        arguments=wanted.arguments,
        issued_by=actor.user,
        requested_at=clock_timestamp() - timedelta(seconds=waited),
        expires_at=clock_timestamp() + timedelta(seconds=life - waited),
    )
    order.given_up_at = time.monotonic() + life - waited
    notify(COMMAND, bench=bench.pk)
    return order


def _short(label: str) -> str:
    """A1's inputs are 1.1 to 1.8, M1's M1.1 to M1.8."""
    return label[1:] if label[:1] == "A" and label[1:].isdigit() else label


@transaction.atomic
def add_device(bench: Bench, label: str, driver: str, **address: Any) -> Device:
    """A device of a bench with its inputs; one that is there already moves to the address."""
    device, fresh = Device.objects.update_or_create(
        bench=bench, label=label, defaults={"driver": driver, **address}
    )
    if fresh:
        Input.objects.bulk_create(
            Input(device=device, number=n, label=f"{_short(label)}.{n}", signal=signal)
            for n, signal in enumerate(registry.offers(driver).signals, start=1)
        )
    return device


@transaction.atomic
def create_bench(actor: Actor, name: str) -> Bench:
    """A bench without devices."""
    require(actor, "set up benches")
    if Bench.objects.filter(name__iexact=name).exists():
        raise Problem(
            409,
            f"There is a bench {name} already.",
            code=ProblemType.NAME_TAKEN,
            field="name",
            hint="Choose another name.",
        )
    bench = Bench.objects.create(name=name)
    record(actor, f"Set up the bench {name}")
    notify(NEWS, kind="bench", bench=bench.pk)
    return bench


@transaction.atomic
def remove_bench(actor: Actor, bench_id: int) -> None:
    """Remove a bench with its devices; refused where setups are made for it: they would go."""
    require(actor, "set up benches")
    bench = Bench.objects.select_for_update(of=("self",)).get(pk=bench_id)
    if bench.yoke_holder_id:
        require_yoke(actor, bench)
    try:
        bench.delete()
    except ProtectedError as error:
        raise Problem(
            409,
            f"Setups are made for {bench.name}.",
            code=ProblemType.IN_USE,
            hint="Archive it: they stay, with what was recorded.",
        ) from error
    record(actor, f"Removed the bench {bench.name}")
    notify(NEWS, kind="bench", bench=bench_id)


@transaction.atomic
def archive_bench(actor: Actor, bench_id: int, *, restore: bool = False) -> None:
    """Put a bench away, or take it out again. Nothing of it is lost; its recorder lets it go."""
    require(actor, "set up benches")
    bench = Bench.objects.select_for_update(of=("self",)).get(pk=bench_id)
    require_unlocked(bench.pk, f"archive {bench.name}")
    if bench.yoke_holder_id:
        require_yoke(actor, bench)
        _give(bench, None)
    bench.archived_at = None if restore else datetime.now(UTC)
    bench.save(update_fields=["archived_at"])
    record(actor, f"{'Took out' if restore else 'Archived'} the bench {bench.name}")
    notify(NEWS, kind="bench", bench=bench.pk)


@transaction.atomic
def put_device(
    actor: Actor, bench_id: int, *, label: str, driver: str, host: str, port: int
) -> Device:
    """A device of a bench, new or moved to another address; its recorder follows."""
    require(actor, "set up benches")
    bench = Bench.objects.select_for_update(of=("self",)).get(pk=bench_id)
    check_address(driver, host, port)
    if other := bench.devices.filter(host=host, port=port).exclude(label=label).first():
        raise Problem(
            409,
            f"{other.label} is at {spoken(host, port)} already.",
            code=ProblemType.IN_USE,
            field="host",
            hint="Check the address, or take that device off first.",
        )
    return save_device(actor, bench, label=label, driver=driver, host=host, port=port)


def save_device(
    actor: Actor, bench: Bench, *, label: str, driver: str, host: str, port: int
) -> Device:
    """The same for an address that was checked; inside a transaction, the bench being locked."""
    known = bench.devices.filter(label__iexact=label).first()
    if known and known.label != label:
        raise Problem(
            409,
            f"There is a device {known.label} already.",
            code=ProblemType.NAME_TAKEN,
            field="label",
            hint="Choose another label.",
        )
    if known and known.driver != driver:
        raise Problem(
            409,
            f"{label} is a {known.driver} already.",
            code=ProblemType.EXISTS_ALREADY,
            field="label",
            hint="Choose another label, or take that device off first.",
        )
    # A lost one may be followed in the middle of a run: that brings it back.
    if known and known.link == Link.LINKED and (known.host, known.port) != (host, port):
        require_unlocked(bench.pk, f"move {label}")
    device = add_device(bench, label, driver, host=host, port=port)
    record(actor, f"Put {label} of {bench.name} at {spoken(host, port)}")
    notify(NEWS, kind="bench", bench=bench.pk)
    return device


def check_address(driver: str, host: str, port: int) -> None:
    """Raise a problem for a driver that nobody knows, or an address it cannot be at."""
    if driver not in registry.names():
        raise Problem(
            422,
            f"There is no driver “{driver}”.",
            field="driver",
            hint=f"Choose one of {', '.join(registry.names())}.",
        )
    if is_line(host) and Capability.SERIAL_LINE not in registry.capabilities(driver):
        raise Problem(
            422,
            f"A {driver} does not hang on a serial line.",
            field="host",
            hint="Give its name or number on the network.",
        )
    if not is_line(host) and port == 0:
        raise Problem(422, "Port must be at least 1.", field="port", hint="Give its port.")


def order_find(actor: Actor, bench_id: int) -> Order:
    """Have the bench's recorder ask its network which devices are there."""
    require(actor, "set up benches")
    bench = Bench.objects.get(pk=bench_id)
    return send(actor, bench, FindDevices(), seconds=settings.LOOK_SECONDS)


def order_trial(actor: Actor, bench_id: int, **address: Any) -> Order:
    """Have the bench's recorder try whether a device answers at an address."""
    require(actor, "set up benches")
    check_address(**address)
    bench = Bench.objects.get(pk=bench_id)
    user = bench.devices.filter(host=address["host"]).first() if is_line(address["host"]) else None
    if user is not None:  # two who read a line take each other's readings away
        raise Problem(
            409,
            f"{user.label} uses {address['host']} already.",
            code=ProblemType.IN_USE,
            field="host",
            hint="Its link says whether it answers.",
        )
    return send(actor, bench, TryAddress(**address), seconds=settings.LOOK_SECONDS)


@transaction.atomic
def remove_device(actor: Actor, device_id: int) -> None:
    """Take a device off its bench; refused while a setup uses it, or a run is recorded."""
    require(actor, "set up benches")
    device = (
        Device.objects.select_for_update(of=("self",)).select_related("bench").get(pk=device_id)
    )
    require_unlocked(device.bench_id, f"take {device.label} off")
    try:
        device.delete()
    except ProtectedError as error:
        raise Problem(
            409,
            f"A setup uses {device.label}.",
            code=ProblemType.IN_USE,
            hint="Take its sensors off the inputs first.",
        ) from error
    record(actor, f"Took {device.label} off {device.bench.name}")
    notify(NEWS, kind="bench", bench=device.bench_id)


@transaction.atomic
def save_stand_ins(ports: dict[str, int]) -> None:
    """The devices on this computer are where their stand-ins say; recorders follow."""
    for label, port in ports.items():
        devices = Device.objects.filter(label=label, host="127.0.0.1").exclude(port=port)
        for device in devices:
            Device.objects.filter(pk=device.pk).update(port=port)
            notify(NEWS, kind="bench", bench=device.bench_id)
