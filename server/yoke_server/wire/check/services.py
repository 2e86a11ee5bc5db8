"""Having the wiring checked, keeping what was found, and giving stand-ins their faults."""

from django.conf import settings
from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.drivers.base import Capability
from yoke_server.bench.drivers.registry import capabilities
from yoke_server.bench.models import Device, Order
from yoke_server.bench.orders import OrderSpec
from yoke_server.bench.services import require_yoke, send
from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.orders.devices import Pretend
from yoke_server.kinds.orders.measuring import CheckWiring, WiringReading
from yoke_server.ledger.services import record
from yoke_server.setups.models import Channel
from yoke_server.setups.services import lock
from yoke_server.wire.check.judge import judge
from yoke_server.wire.check.subject import wired_as
from yoke_server.wire.check.words import said
from yoke_server.wire.models import WiringCheck
from yoke_server.wire.orders import keys_of, order_of_channels


def order_check(actor: Actor, setup_id: int, channel_ids: list[int]) -> Order:
    """Have the wiring of channels measured; the order remembers as what each was wired."""

    def wanted(channels: list[Channel]) -> OrderSpec:
        of = {c.key: wired_as(c) for c in channels}
        return CheckWiring(channels=keys_of(channels), of=of)

    return order_of_channels(actor, setup_id, channel_ids, wanted)


def keep_checks(
    actor: Actor, setup_id: int, measured: dict[str, WiringReading], of: dict[str, str]
) -> int:
    """Judge what was measured and keep it; gives how many are well.

    A channel that was changed after the order (``of`` is as what it was wired then) keeps none:
    what was measured is not of what stands there now.
    """
    with transaction.atomic():
        setup = lock(setup_id)
        channels = setup.channels.select_related("sensor", "input__device")
        same = [c for c in channels.filter(key__in=measured) if of.get(c.key) == wired_as(c)]
        checks = [_check(actor, c, measured[c.key]) for c in same]
        WiringCheck.objects.bulk_create(checks)
        wrong = sum(not c.passed for c in checks)
        record(actor, f"Checked the wiring of {len(checks)} channels, {wrong} to mend")
        notify(NEWS, kind="setup", setup=setup.pk, bench=setup.bench_id, by="check")
    return len(checks) - wrong


def _check(actor: Actor, channel: Channel, measured: WiringReading) -> WiringCheck:
    verdict = judge(channel, measured)
    return WiringCheck(
        setup_id=channel.setup_id,
        channel_key=channel.key,
        actor=actor.user,
        passed=not verdict.causes,
        found=said(channel, verdict),
        of=wired_as(channel),
    )


@transaction.atomic
def order_faults(actor: Actor, device_id: int, number: int, faults: str) -> Order:
    """Put an input of a stand-in into a state that it should not be in; needs the yoke."""
    require(actor, "drive the bench")
    device = Device.objects.select_related("bench").get(pk=device_id)
    require_yoke(actor, device.bench)
    if not settings.STAND_INS or Capability.PRETENDS not in capabilities(device.driver):
        raise Problem(
            409,
            f"{device.label} is no stand-in that takes faults.",
            code=ProblemType.DEVICE_UNFIT,
            field="device_id",
        )
    record(actor, f"Had input {number} of {device.label} be {faults or 'well'}")
    wanted = Pretend(device=device.label, input=number, faults=faults or "none")
    return send(actor, device.bench, wanted)
