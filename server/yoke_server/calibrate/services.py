"""Scaling, zero and shunt check of channels."""

from datetime import UTC, datetime
from typing import Any

from django.db import transaction
from yoke_core.bridge.shunt import expected_shunt_ratio

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.models import Command
from yoke_server.bench.services import require_yoke, send, wait_for
from yoke_server.calibrate.scaling import scaling_of
from yoke_server.config.problems import Problem
from yoke_server.ledger.services import assign
from yoke_server.wire.models import Channel, Setup
from yoke_server.wire.services import change_row, lock


@transaction.atomic
def change_scaling(actor: Actor, channel_id: int, **changes: Any) -> Channel:
    """Change how a channel turns mV/V into its quantity; refused where the core refuses."""
    require(actor, "change scaling")
    channel = Channel.objects.get(pk=channel_id)
    setup = lock(channel.setup_id)
    changes = {k: v for k, v in changes.items() if v is not None}
    assign(channel, changes)
    scaling_of(channel)
    channel.refresh_from_db()
    change_row(actor, setup, channel, f"Changed the scaling of {channel.name}", **changes)
    return channel


def order(actor: Actor, setup_id: int, channel_ids: list[int], kind: str) -> Command:
    """Ask the recorder to measure channels; needs the yoke."""
    require(actor, "zero and check channels")
    if not channel_ids:
        raise Problem(422, "No channel is chosen.", field="channels", hint="Choose at least one.")
    with transaction.atomic():
        setup = lock(setup_id)
        require_yoke(actor, setup.bench)
        known = set(setup.channels.filter(pk__in=channel_ids).values_list("pk", flat=True))
        if missing := set(channel_ids) - known:
            raise Problem(404, f"This setup has no channel {min(missing)}.", field="channels")
        return send(actor, setup.bench, kind, channels=sorted(known))


def zero(actor: Actor, setup_id: int, channel_ids: list[int]) -> list[dict[str, Any]]:
    """Zero channels on what they read now; each answer says ok, or why not."""
    measured = wait_for(order(actor, setup_id, channel_ids, "measure"))
    results = []
    with transaction.atomic():
        setup = lock(setup_id)
        for channel in setup.channels.filter(pk__in=channel_ids):
            reading = measured[str(channel.pk)]
            why_not = _why_not_zero(channel, reading)
            if not why_not:
                change_row(
                    actor, setup, channel, f"Zeroed {channel.name}",
                    zero_mv_v=reading["mean_mv_v"], zeroed_at=datetime.now(UTC),
                )  # fmt: skip
            results.append({"channel": channel.pk, "name": channel.name, "problem": why_not})
    return results


def _why_not_zero(channel: Channel, reading: dict[str, Any]) -> str:
    if reading["clipped"]:
        return f"{channel.name} is clipped: check its wiring before zeroing."
    if abs(reading["mean_mv_v"]) > 0.5 * channel.range_mv_v:
        return (
            f"{channel.name} stands at {reading['mean_mv_v']:.3f} mV/V, over half its range: "
            "unload it or check the bridge."
        )
    if reading["deviation_mv_v"] > 0.01 * channel.range_mv_v:
        return f"{channel.name} is not steady: wait until it stands still."
    return ""


def shunt_check(actor: Actor, setup_id: int, channel_ids: list[int]) -> list[dict[str, Any]]:
    """Put the amplifier's shunt across an arm and compare with what it must read."""
    measured = wait_for(order(actor, setup_id, channel_ids, "shunt"), seconds=12)
    results = []
    with transaction.atomic():
        setup = lock(setup_id)
        for channel in setup.channels.filter(pk__in=channel_ids):
            reading = measured[str(channel.pk)]
            if reading["clipped"]:
                problem = f"{channel.name} is clipped: check its wiring before the shunt check."
            else:
                problem = ""
                _keep_shunt(actor, setup, channel, reading, measured["shunt_ohm"])
            results.append({"channel": channel.pk, "name": channel.name, "problem": problem})
    return results


def _keep_shunt(
    actor: Actor, setup: Setup, channel: Channel, reading: dict[str, Any], shunt_ohm: float
) -> None:
    expected = expected_shunt_ratio(channel.resistance_ohm, shunt_ohm) * 1e3
    change_row(
        actor, setup, channel, f"Shunt check of {channel.name}",
        shunt_expected_mv_v=expected, shunt_measured_mv_v=reading["step_mv_v"],
        shunt_at=datetime.now(UTC),
    )  # fmt: skip
