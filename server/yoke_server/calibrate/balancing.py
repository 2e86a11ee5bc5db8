"""Bridges balanced in the amplifier: what it takes off before it converts; seen and revocable."""

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.drivers import registry
from yoke_server.calibrate.models import Calibration, CalibrationState
from yoke_server.calibrate.services import (
    Outcome,
    Rest,
    action_on,
    measured_channels,
    why_not_steady,
)
from yoke_server.kinds.inputs.conditioning import BridgeConditioning
from yoke_server.kinds.orders.measuring import RestReading
from yoke_server.setups.conditioning import require_yoke_in_use
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.models import Balance, Channel, Setup
from yoke_server.setups.services import add_measured, change_rows, lock

Balanced = tuple[FrozenChannel, BridgeConditioning]


@transaction.atomic
def balance_bridges(actor: Actor, setup_id: int, measured: Rest) -> list[Outcome]:
    """Have the amplifier take off what bridges give at rest; their zeros are to be taken anew."""
    require(actor, "zero and check channels")
    setup = lock(setup_id)
    require_yoke_in_use(actor, setup)
    results: list[Outcome] = []
    done: list[Balanced] = []
    for number, channel in measured_channels(setup, measured):
        found = _balanced(setup, channel, measured[channel.key])
        if isinstance(found, BridgeConditioning):
            done.append((channel, found))
        problem = found if isinstance(found, str) else ""
        results.append({"channel": number, "name": channel.name, "problem": problem})
    _keep(actor, setup, "Balanced", done)
    return results


@transaction.atomic
def take_off_balance(actor: Actor, setup_id: int, channel_ids: list[int]) -> None:
    """Have the amplifier take nothing off any more."""
    require(actor, "zero and check channels")
    setup = lock(setup_id)
    require_yoke_in_use(actor, setup)
    keys = set(setup.channels.filter(pk__in=channel_ids).values_list("key", flat=True))
    done = [
        (channel, channel.conditioning.model_copy(update={"balance": 0.0}))
        for _, channel in measured_channels(setup, keys)
        if isinstance(channel.conditioning, BridgeConditioning) and channel.conditioning.balance
    ]
    _keep(actor, setup, "Took the balance off", done)


def _balanced(
    setup: Setup, channel: FrozenChannel, reading: RestReading
) -> BridgeConditioning | str:
    """A channel's conditioning with what it gives at rest taken off, or why not."""
    conditioning = channel.conditioning
    if not isinstance(conditioning, BridgeConditioning) or not channel.wiring.zeroes_signal:
        return f"{channel.name} is no bridge: there is nothing to balance."
    if why := why_not_steady(channel, reading):
        return why
    under_way = Calibration.objects.filter(
        setup=setup, channel_key=channel.key, state=CalibrationState.UNDER_WAY
    )
    if under_way.exists():
        return f"{channel.name} is being calibrated: its signal must not jump now."
    found = conditioning.balanced_by(reading.value)
    lack = found.lacks(registry.offers(_row(setup, channel).input.device.driver))
    return f"{channel.name}: {lack.text} {lack.hint}" if lack else found


def _row(setup: Setup, channel: FrozenChannel) -> Channel:
    return setup.channels.select_related("input__device").get(key=channel.key)


def _keep(actor: Actor, setup: Setup, verb: str, done: list[Balanced]) -> None:
    """The settings, and that their zeros hold no more."""
    if not done:
        return
    action = action_on(verb, [channel for channel, _ in done])
    changes = [(_row(setup, channel), {"conditioning": found}) for channel, found in done]
    change_rows(actor, setup, action, changes)
    zeroed = [channel for channel, _ in done if channel.zero is not None]
    rows = [(Balance, channel.key, {"zero": None}) for channel in zeroed]
    add_measured(actor, setup, f"{action}: zero anew", rows)
