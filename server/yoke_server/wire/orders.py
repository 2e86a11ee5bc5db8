"""Orders to the recorder that concern channels of a setup."""

from collections.abc import Callable
from typing import Any

from django.conf import settings
from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.models import Order
from yoke_server.bench.services import require_yoke, send
from yoke_server.common.http.problems import Problem
from yoke_server.setups.models import Channel
from yoke_server.setups.services import lock


@transaction.atomic
def order_of_channels(
    actor: Actor,
    setup_id: int,
    channel_ids: list[int],
    kind: str,
    more: Callable[[list[Channel]], dict[str, Any]] = lambda channels: {},
) -> Order:
    """Ask the recorder to measure channels at rest; needs the yoke.

    ``more`` gives further arguments of the order from the channels as they stand under lock.
    """
    require(actor, "zero and check channels")
    setup = lock(setup_id)
    require_yoke(actor, setup.bench)
    channels = list(setup.channels.filter(pk__in=channel_ids))
    if missing := set(channel_ids) - {c.pk for c in channels}:
        raise Problem(404, f"This setup has no channel {min(missing)}.", field="channels")
    return send(
        actor,
        setup.bench,
        kind,
        seconds=settings.MEASURE_SECONDS,
        channels=sorted(c.key for c in channels),
        **more(channels),
    )
