"""What a reading is uncertain by, as far as its channel tells (GUM)."""

from datetime import date, datetime, time, timedelta
from typing import TYPE_CHECKING

from django.conf import settings

from yoke_server.calibrate.reading_terms import terms_of
from yoke_server.calibrate.schemas import UncertaintyOut, UncertaintyTermOut
from yoke_server.common.clock import laboratory_today
from yoke_server.common.units import digit_shown
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
    first = zeros_of_today(row.setup_id).get(row.key)
    shared, lacks = terms_of(channel, row.sensor, first, laboratory_today())
    terms = [*(t.at(reading) for t in shared), *_of_sample(channel, deviation)]
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


def _of_sample(channel: FrozenChannel, deviation: float) -> "list[Component]":
    """A single sample's noise, and the last digit that is shown."""
    from yoke_core.uncertainty.budget import Component, limits

    digit = digit_shown(channel.unit, channel.decimals)
    return [Component("noise", deviation), limits("resolution", digit / 2)]


def zeros_of_today(setup_id: int) -> dict[str, float]:
    """The first zero of the laboratory's day, by channel key (SI of the signal)."""
    return first_zeros(setup_id, laboratory_today())


def first_zeros(setup_id: int, day: date) -> dict[str, float]:
    """The first zero of a day of the laboratory, by channel key (SI of the signal)."""
    morning = datetime.combine(day, time(), tzinfo=settings.LABORATORY_ZONE)
    rows = Balance.objects.filter(
        setup_id=setup_id, at__gte=morning, at__lt=morning + timedelta(days=1), zero__isnull=False
    )
    newest_first = rows.order_by("-pk").values_list("channel_key", "zero")
    return {key: zero for key, zero in newest_first if zero is not None}  # the oldest of each stays
