"""What a channel may be set to: what its device offers, units of its quantity, by whom."""

from collections.abc import Mapping
from typing import Any

from yoke_server.accounts.actor import Actor
from yoke_server.bench.drivers import registry
from yoke_server.bench.models import Device
from yoke_server.bench.services import require_yoke
from yoke_server.common.http.problems import Problem, words
from yoke_server.common.units import is_unit_of, units_of
from yoke_server.kinds.spec import Spec
from yoke_server.setups.models import Channel, Setup

CONDITIONING = frozenset({"conditioning", "wiring"})


def require_yoke_in_use(actor: Actor, setup: Setup) -> None:
    """While somebody drives the bench with this setup, only they change what it measures."""
    bench = setup.bench
    if setup.on_bench_id and bench.yoke_holder_id is not None:
        require_yoke(actor, bench)


def check_channel(actor: Actor, setup: Setup, channel: Channel, changes: Mapping[str, Any]) -> None:
    """Raise a problem for a unit of another dimension, or a setting that is not offered."""
    if (unit := changes.get("unit")) and not is_unit_of(unit, channel.quantity):
        _require_one_of("unit", unit, units_of(channel.quantity))
    if not CONDITIONING & set(changes):
        return
    require_yoke_in_use(actor, setup)
    for name in CONDITIONING & set(changes):
        _require_same_kind(name, getattr(channel, name), changes[name])
    if (asked := changes.get("conditioning")) is not None:
        offers = registry.offers(channel.input.device.driver)
        for setting in asked.settings(offers):
            _require_one_of(*setting)
        if lack := asked.lacks(offers):
            raise Problem(422, lack.text, field="conditioning", hint=lack.hint)


def check_rate(device: Device, rate_hz: float) -> None:
    """Raise a problem for a rate that the device does not reach."""
    offers = registry.offers(device.driver)
    if offers.rates_hz:
        _require_one_of("rate_hz", rate_hz, offers.rates_hz)
    if not offers.slowest_hz <= rate_hz <= offers.fastest_hz:
        ends = f"{offers.slowest_hz:g} to {offers.fastest_hz:g} Hz"
        raise Problem(
            422, f"{device.label} samples at {ends}.", field="rate_hz", hint=f"Give {ends}."
        )


def _require_same_kind(name: str, now: Spec, asked: Spec) -> None:
    """The kind comes with the sensor; its fields are what a person changes."""
    if now.kind != asked.kind:
        raise Problem(
            422,
            f"The {name} is a {now.words}: it does not become a {asked.words}.",
            field=name,
            hint="Take the sensor off, and give the input another one.",
        )


def _require_one_of(field: str, given: Any, offered: tuple[Any, ...]) -> None:
    if given in offered:
        return
    said, *known = (f"{v:g}" if isinstance(v, float) else str(v) for v in (given, *offered))
    choices = ", ".join(known)
    raise Problem(
        422,
        f"{words(field)} cannot be {said}: it is one of {choices}.",
        field=field,
        hint=f"Choose one of {choices}.",
    )
