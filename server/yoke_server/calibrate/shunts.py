"""Shunt checks: what a resistor across an arm must change and does; spans put right by it."""

from collections.abc import Iterable

from django.db import transaction
from yoke_core.errors import CoreError
from yoke_core.wiring.shunt import expected_shunt_ratio

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.calibrate.services import (
    Outcome,
    Rest,
    action_on,
    change_scaling,
    measured_channels,
    why_not_steady,
)
from yoke_server.calibrate.shunt_verdict import why_not_correct
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.orders.measuring import RestReading, ShuntReading
from yoke_server.kinds.shunts import MAX_OHM, MIN_OHM, ShuntResistor
from yoke_server.kinds.steps.span import ShuntSpan
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.freezing import frozen_channel
from yoke_server.setups.models import Channel, Setup, ShuntCalibration
from yoke_server.setups.services import add_measured, lock

Check = tuple[FrozenChannel, int, ShuntResistor | None, float | None, str]


@transaction.atomic
def keep_shunt_checks(
    actor: Actor, setup_id: int, measured: dict[str, ShuntReading]
) -> list[Outcome]:
    """Compare what the amplifier's shunt changed with what it must change."""
    setup = lock(setup_id)
    checks: list[Check] = []
    for number, channel in measured_channels(setup, measured):
        reading = measured[channel.key]
        problem = _why_not_own(channel, reading)
        resistor = None if problem else ShuntResistor(resistance_ohm=reading.shunt_ohm, own=True)
        checks.append((channel, number, resistor, reading.step_mv_v, problem))
    return _keep(actor, setup, checks)


def _why_not_own(channel: FrozenChannel, reading: ShuntReading) -> str:
    if reading.clipped:
        return f"{channel.name} is clipped: check its wiring before the shunt check."
    if reading.moved:
        return f"{channel.name} moved meanwhile: let it rest, then check it again."
    if not MIN_OHM <= reading.shunt_ohm <= MAX_OHM:
        return f"{channel.device_label} says that its shunt has {reading.shunt_ohm:g} Ω."
    return _why_no_shunt(channel)


def _why_no_shunt(channel: FrozenChannel) -> str:
    if channel.wiring.shunt_sensor(channel.conditioning) is None:
        return f"{channel.name} is no bridge: it has no shunt."
    return ""


@transaction.atomic
def keep_external_checks(
    actor: Actor, setup_id: int, measured: Rest, resistor: ShuntResistor
) -> list[Outcome]:
    """Compare what a resistor that a person put on changed since the zero with what it must."""
    setup = lock(setup_id)
    checks: list[Check] = []
    for number, channel in measured_channels(setup, measured):
        reading = measured[channel.key]
        problem = _why_no_shunt(channel) or _why_not_external(channel, reading)
        step = None if problem else _step_since_zero(channel, reading, resistor)
        checks.append((channel, number, resistor, step, problem))
    return _keep(actor, setup, checks)


def _why_not_external(channel: FrozenChannel, reading: RestReading) -> str:
    if channel.zero is None:
        return f"{channel.name} has no zero: take the resistor off, zero it, then put it on."
    return why_not_steady(channel, reading)


def _step_since_zero(
    channel: FrozenChannel, reading: RestReading, resistor: ShuntResistor
) -> float:
    """mV/V; swapped cores turn what is put on beyond them."""
    step = (reading.value - (channel.zero or 0.0)) * 1e3
    turned = resistor.at_sensor and channel.polarity == "cores swapped"
    return -step if turned else step


def _keep(actor: Actor, setup: Setup, checks: Iterable[Check]) -> list[Outcome]:
    results, rows, done = [], [], []
    for channel, number, resistor, step, problem in checks:
        why_not = problem
        fields: dict[str, object] = {}
        if resistor is not None and not problem:
            fields, why_not = _compared(channel, resistor, step)
        if fields:
            rows.append((ShuntCalibration, channel.key, fields))
            done.append(channel)
        results.append({"channel": number, "name": channel.name, "problem": why_not})
    add_measured(actor, setup, action_on("Shunt checked", done), rows)
    return results


def _compared(
    channel: FrozenChannel, resistor: ShuntResistor, step: float | None
) -> tuple[dict[str, object], str]:
    """The row of a check, as the channel is wired; or why there is none."""
    sensor = channel.wiring.shunt_sensor(channel.conditioning)
    assert sensor is not None  # or else the check was refused
    try:
        expected = expected_shunt_ratio(sensor, resistor.checked) * 1e3
    except CoreError as error:
        return {}, f"{channel.name}: {error}"
    found: dict[str, object] = {
        "expected_mv_v": expected,
        "measured_mv_v": step,
        "resistor": resistor.model_dump(),
    }
    return found, ""


@transaction.atomic
def correct_by_shunt(actor: Actor, channel_id: int) -> Channel:
    """Put the span of a channel right by its newest shunt check: a step of its reading."""
    require(actor, "change scaling")
    row = Channel.objects.select_related("setup").get(pk=channel_id)
    channel = frozen_channel(row.setup, row.key)
    if why := why_not_correct(channel):
        hint = "Put a resistor across an arm at the sensor, and check it by that."
        raise Problem(409, why, code=ProblemType.NO_RESULT, hint=hint)
    expected, measured = channel.shunt_expected_mv_v, channel.shunt_measured_mv_v
    assert expected and measured
    step = ShuntSpan(factor=expected / measured)
    others = [s for s in channel.steps if not isinstance(s, ShuntSpan)]
    return change_scaling(actor, channel_id, steps=[step, *others])
