"""What a reading is uncertain by, as far as its channel tells (GUM)."""

from collections.abc import Mapping
from datetime import date, datetime, time, timedelta
from typing import TYPE_CHECKING

from django.conf import settings
from django.db.models import Prefetch, QuerySet

from yoke_server.calibrate.reading_terms import terms_of
from yoke_server.calibrate.schemas import ExpandedOut, UncertaintyOut, UncertaintyTermOut
from yoke_server.common.clock import laboratory_today
from yoke_server.common.units import digit_shown
from yoke_server.sensors.models import Certificate
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.freezing import freeze_channels, frozen_channel
from yoke_server.setups.models import Balance, Channel, Setup

if TYPE_CHECKING:
    from yoke_core.uncertainty.budget import Component


def uncertainty_of(channel_id: int, reading: float, deviation: float) -> UncertaintyOut:
    """The budget of one reading (SI) whose samples spread by a deviation (SI)."""
    from yoke_core.uncertainty.budget import Budget

    row = _with_certificates(Channel.objects.select_related("setup")).get(pk=channel_id)
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


def _with_certificates(channels: "QuerySet[Channel]") -> "QuerySet[Channel]":
    """With their sensors and all that their certificates state, but for the files."""
    certificates = Certificate.objects.defer("file")
    return channels.select_related("sensor").prefetch_related(
        Prefetch("sensor__certificates", certificates)
    )


def uncertainties_of(
    setup_id: int, readings: Mapping[int, tuple[float, float]]
) -> list[ExpandedOut]:
    """U of many channels by their readings and the deviations of their samples (SI)."""
    import numpy as np
    from yoke_core.uncertainty.readings import ReadingBudgets

    setup = Setup.objects.get(pk=setup_id)
    channels = {c.key: c for c in freeze_channels(setup)}
    rows = list(_with_certificates(setup.channels.filter(pk__in=readings)).order_by("pk"))
    first, today = zeros_of_today(setup_id), laboratory_today()
    found = [terms_of(channels[r.key], r.sensor, first.get(r.key), today) for r in rows]
    budgets = ReadingBudgets(
        np.array([np.hypot.reduce([t.gain for t in terms] or [0.0]) for terms, _ in found]),
        np.array([np.hypot.reduce([t.offset for t in terms] or [0.0]) for terms, _ in found]),
        np.array([_resolution(channels[r.key]).standard for r in rows]),
    )
    given = np.array([readings[r.pk] for r in rows]).reshape(-1, 2)
    expanded = budgets.expanded(given[:, 0], given[:, 1])
    return [
        ExpandedOut(channel=row.pk, expanded=float(u), complete=not lacks)
        for row, u, (_, lacks) in zip(rows, expanded, found, strict=True)
    ]


def _of_sample(channel: FrozenChannel, deviation: float) -> "list[Component]":
    """A single sample's noise, and the last digit that is shown."""
    from yoke_core.uncertainty.budget import Component

    return [Component("noise", deviation), _resolution(channel)]


def _resolution(channel: FrozenChannel) -> "Component":
    from yoke_core.uncertainty.budget import limits

    return limits("resolution", digit_shown(channel.unit, channel.decimals) / 2)


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
