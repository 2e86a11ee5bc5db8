"""What a reading is uncertain by, as far as its channel tells (GUM)."""

from datetime import datetime, time
from typing import TYPE_CHECKING

from django.conf import settings

from yoke_server.calibrate.schemas import UncertaintyOut, UncertaintyTermOut
from yoke_server.common.clock import laboratory_today
from yoke_server.common.units import digit_shown
from yoke_server.kinds.chain import per_signal
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.freezing import frozen_channel
from yoke_server.setups.models import Balance, Channel

if TYPE_CHECKING:
    from yoke_core.uncertainty.budget import Component


def uncertainty_of(channel_id: int, reading: float, deviation: float) -> UncertaintyOut:
    """The budget of one reading (SI) whose samples spread by a deviation (SI)."""
    from yoke_core.uncertainty.budget import Budget

    row = Channel.objects.select_related("setup", "sensor").get(pk=channel_id)
    channel = frozen_channel(row.setup, row.key)
    calibration, lacks = _of_certificate(row, reading)
    terms = [*calibration, *_of_zero(row, channel), *_of_sample(channel, deviation)]
    if channel.zero is None:
        lacks.append("The channel is not zeroed.")
    budget = Budget(terms)
    return UncertaintyOut(
        expanded=budget.expanded(),
        factor=budget.coverage_factor(),
        terms=[
            UncertaintyTermOut(
                name=t.name, standard=abs(t.contribution), distribution=t.distribution.value
            )
            for t in terms
        ],
        lacks=lacks,
    )


def _of_certificate(row: Channel, reading: float) -> "tuple[list[Component], list[str]]":
    """What the certificate in force states, and what it lacks."""
    from yoke_core.uncertainty.budget import Component

    newest = row.sensor.newest_certificate
    if newest is None:
        return [], [f"{row.sensor.name} {row.sensor.serial} has no certificate."]
    if newest.expanded is None:
        return [], [f"Certificate {newest.number} states no uncertainty."]
    term = Component(f"certificate {newest.number}", newest.expanded / 2 * abs(reading))
    return [term], [f"Certificate {newest.number} is overdue."] if newest.is_overdue else []


def _of_zero(row: Channel, channel: FrozenChannel) -> "list[Component]":
    """The zero may drift once more by as much as it did since the first of the day."""
    from yoke_core.uncertainty.budget import limits

    first = zeros_of_today(row.setup_id).get(row.key)
    if first is None or channel.zero is None or first == channel.zero:
        return []
    return [limits("drift of the zero", abs((channel.zero - first) * per_signal(channel)))]


def _of_sample(channel: FrozenChannel, deviation: float) -> "list[Component]":
    """A single sample's noise, and the last digit that is shown."""
    from yoke_core.uncertainty.budget import Component, limits

    digit = digit_shown(channel.unit, channel.decimals)
    return [Component("noise", deviation), limits("resolution", digit / 2)]


def zeros_of_today(setup_id: int) -> dict[str, float]:
    """The first zero of the laboratory's day, by channel key (SI of the signal)."""
    zone = settings.LABORATORY_ZONE
    morning = datetime.combine(laboratory_today(), time(), tzinfo=zone)
    rows = Balance.objects.filter(setup_id=setup_id, at__gte=morning, zero__isnull=False)
    newest_first = rows.order_by("-pk").values_list("channel_key", "zero")
    return {key: zero for key, zero in newest_first if zero is not None}  # the oldest of each stays
