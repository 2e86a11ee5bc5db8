"""Scaling, zero and tare of channels."""

import math
from collections.abc import Container, Mapping, Sequence
from typing import Any

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.calibrate.steps import require_steps
from yoke_server.common.clock import laboratory_today
from yoke_server.common.http.problems import Problem
from yoke_server.common.units import span_from_si
from yoke_server.kinds.chain import chain_of, is_relative, per_signal, takes_zero
from yoke_server.kinds.orders.measuring import RestReading
from yoke_server.kinds.scalings.table import TablePoint, TableScaling
from yoke_server.kinds.steady import most_going, most_noise
from yoke_server.kinds.steps.base import ReadingStep
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.freezing import freeze_channels, frozen_channel
from yoke_server.setups.models import Balance, Channel, Setup, Tare
from yoke_server.setups.services import (
    add_measured,
    change_rows,
    channels_by_number,
    lock,
    lock_channel,
)

Rest = dict[str, RestReading]  # by channel key
Outcome = dict[str, object]


@transaction.atomic
def change_scaling(actor: Actor, channel_id: int, **changes: Any) -> Channel:
    """Change how a channel turns its signal into its quantity; refused where the core refuses.

    Steps of the reading may be changed while a run records, too.
    """
    require(actor, "change scaling")
    setup, channel = lock_channel(channel_id, while_recording=set(changes) <= {"steps"})
    change = _checked_change(setup, channel, changes)
    change_rows(actor, setup, f"Changed the scaling of {channel.name}", [change])
    return channel


@transaction.atomic
def change_scalings(actor: Actor, setup_id: int, changes: Mapping[int, dict[str, Any]]) -> None:
    """Change the scaling of many channels as one action: of all of them or of none."""
    require(actor, "change scaling")
    setup = lock(setup_id)
    rows = channels_by_number(setup, changes)
    checked = [_checked_change(setup, rows[pk], given) for pk, given in changes.items()]
    change_rows(actor, setup, f"Changed the scaling of {len(rows)} channels", checked)


def _checked_change(
    setup: Setup, channel: Channel, given: Mapping[str, Any]
) -> tuple[Channel, dict[str, Any]]:
    """A change of one channel's scaling as it is kept; raises what is wrong with it."""
    changes = dict(given)
    if scaling := changes.get("scaling"):
        _check_scaling(setup, channel, scaling)
    if (steps := changes.get("steps")) is not None:
        require_steps(setup, channel.key, steps)
        changes["steps"] = _put_in_place(channel.steps, steps)
    return channel, changes


@transaction.atomic
def scale_by_certificate(actor: Actor, channel_id: int) -> Channel:
    """Scale a channel by the table of its instrument's certificate in force."""
    require(actor, "change scaling")
    setup, channel = lock_channel(channel_id)
    newest = channel.sensor.newest_certificate
    if newest is None or len(newest.points) < 2:
        serial = channel.sensor.serial
        which = f"Certificate {newest.number} of {serial}" if newest else serial
        raise Problem(
            422,
            f"{which} has no table of points.",
            hint="Type it into the certificate, in the library.",
        )
    points = _points(channel, newest.points)
    scaling = TableScaling(points=[TablePoint(value=v, signal=s) for v, s in points])
    _check_scaling(setup, channel, scaling)
    action = f"Scaled {channel.name} by certificate {newest.number}"
    change_rows(actor, setup, action, [(channel, {"scaling": scaling})])
    return channel


def _points(channel: Channel, stated: list[list[float]]) -> list[tuple[float, float]]:
    """(value, signal) by rising signal; where the zero is taken off the signal, with no load and
    no signal among them."""
    points = {signal: value for value, signal in stated}
    if channel.wiring.zeroes_signal:
        points.setdefault(0.0, 0.0)
    return [(value, signal) for signal, value in sorted(points.items())]


def _put_in_place(before: Sequence[ReadingStep], steps: Sequence[ReadingStep]) -> list[ReadingStep]:
    """Steps as they are kept, each in place of the one of its kind."""
    was, today = {type(s): s for s in before}, laboratory_today()
    return [step.put_in_place_of(was.get(type(step)), today) for step in steps]


def _check_scaling(setup: Setup, channel: Channel, scaling: Any) -> None:
    if scaling.kind not in channel.wiring.scaling_kinds():
        raise Problem(
            422,
            f"A {channel.wiring.words} cannot be scaled by {scaling.words}.",
            field="scaling",
            hint="Choose another scaling.",
        )
    frozen = frozen_channel(setup, channel.key)
    chain_of(frozen.model_copy(update={"scaling": scaling}))


def measured_channels(setup: Setup, measured: Container[str]) -> list[tuple[int, FrozenChannel]]:
    """The channels that were measured and are still there, with their rows' numbers."""
    numbers = dict(setup.channels.values_list("key", "pk"))
    return [(numbers[c.key], c) for c in freeze_channels(setup) if c.key in measured]


def keep_zeros(actor: Actor, setup_id: int, measured: Rest) -> list[Outcome]:
    """Zero channels on what they read; each outcome says ok, or why not."""
    results, rows = [], []
    with transaction.atomic():
        setup = lock(setup_id)
        for number, channel in measured_channels(setup, measured):
            reading = measured[channel.key]
            why_not = _why_not_zero(channel, reading)
            if not why_not:
                rows.append((Balance, channel.key, {"zero": reading.mean}, channel))
            results.append({"channel": number, "name": channel.name, "problem": why_not})
        add_measured(actor, setup, action_on("Zeroed", [r[3] for r in rows]), [r[:3] for r in rows])
    return results


def loaded_since_zero(setup_id: int, measured: Rest) -> str:
    """Why one of the measured channels seems to bear a load: it is farther from its last zero than
    a zero may be uncertain by. Empty if none does."""
    for _, channel in measured_channels(Setup.objects.get(pk=setup_id), measured):
        if channel.zero is None or measured[channel.key].mean is None:
            return f"{channel.name} has no zero that a new one could be compared with."
        away, most = measured[channel.key].value - channel.zero, most_noise(channel)
        if abs(away) > most:
            return (
                f"{channel.name} is {_said(channel, away)} away from its last zero, more than "
                f"{_said(channel, most)}: something may be loaded, so it did not zero itself."
            )
    return ""


def action_on(verb: str, channels: list[FrozenChannel]) -> str:
    which = channels[0].name if len(channels) == 1 else f"{len(channels)} channels"
    return f"{verb} {which}"


def _why_not_zero(channel: FrozenChannel, reading: RestReading) -> str:
    if reading.clipped:
        return f"{channel.name} is clipped: check its wiring before zeroing."
    if not takes_zero(channel):
        return f"{channel.name} measures a {channel.quantity}: it has no zero to take."
    if problem := channel.conditioning.zero_problem(reading.value):
        return f"{channel.name} {problem}"
    if not math.isfinite(chain_of(channel).apply(reading.value)):
        return f"{channel.name} has no number: check its wiring."
    return why_not_steady(channel, reading)


def _why_not_tared(channel: FrozenChannel, reading: RestReading) -> str:
    if not is_relative(channel):
        return f"{channel.name} measures a {channel.quantity}: nothing is taken off it."
    return why_not_steady(channel, reading)


def why_not_steady(channel: FrozenChannel, reading: RestReading) -> str:
    if reading.clipped:
        return f"{channel.name} is clipped: check its wiring."
    if reading.deviation is None or reading.mean is None:
        return f"{channel.name} has no number: check its wiring."
    noisy, going = most_noise(channel), most_going(channel)
    moved = reading.moved or 0.0
    for what, spread, most in (("spreads", reading.deviation, noisy), ("went", moved, going)):
        if spread > most:
            return (
                f"{channel.name} is not steady: it {what} by {_said(channel, spread)}, more than "
                f"{_said(channel, most)}; wait until it stands still."
            )
    return ""


def _said(channel: FrozenChannel, signal: float) -> str:
    """So much more or less of a signal, as the channel's reading."""
    span = abs(signal * per_signal(channel))
    return f"{span_from_si(span, channel.unit):.2g} {channel.unit}"


def keep_tares(actor: Actor, setup_id: int, measured: Rest) -> list[Outcome]:
    """Take off what channels read, in their quantity; the bridge's zero stays as it is."""
    results, rows = [], []
    with transaction.atomic():
        setup = lock(setup_id)
        for number, channel in measured_channels(setup, measured):
            reading = measured[channel.key]
            why_not = _why_not_tared(channel, reading)
            if not why_not:
                bare = channel.model_copy(update={"tare": None})
                value = float(chain_of(bare).apply(reading.value))
                rows.append((Tare, channel.key, {"tare": value}, channel))
            results.append({"channel": number, "name": channel.name, "problem": why_not})
        add_measured(actor, setup, action_on("Tared", [r[3] for r in rows]), [r[:3] for r in rows])
    return results
