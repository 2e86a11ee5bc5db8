"""Orders to the recorder that concern channels of a setup."""

from collections.abc import Callable

from django.conf import settings
from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.models import Order
from yoke_server.bench.orders import OrderSpec
from yoke_server.bench.services import require_yoke, send
from yoke_server.kinds.orders.measuring import CheckShunts, MeasureAtRest
from yoke_server.setups.models import Channel
from yoke_server.setups.services import channels_by_number, lock


@transaction.atomic
def order_of_channels(
    actor: Actor,
    setup_id: int,
    channel_ids: list[int],
    wanted: Callable[[list[Channel]], OrderSpec],
) -> Order:
    """Ask the recorder to measure channels at rest; needs the yoke.

    ``wanted`` makes the order of the channels as they stand under lock.
    """
    require(actor, "zero and check channels")
    setup = lock(setup_id)
    require_yoke(actor, setup.bench)
    channels = list(channels_by_number(setup, channel_ids).values())
    return send(actor, setup.bench, wanted(channels), seconds=settings.MEASURE_SECONDS)


def order_rest(actor: Actor, setup_id: int, channel_ids: list[int]) -> Order:
    """Have channels measured at rest, for a zero or a tare."""

    def wanted(channels: list[Channel]) -> OrderSpec:
        return MeasureAtRest(channels=keys_of(channels))

    return order_of_channels(actor, setup_id, channel_ids, wanted)


def order_shunts(actor: Actor, setup_id: int, channel_ids: list[int]) -> Order:
    """Have the shunts of channels checked."""

    def wanted(channels: list[Channel]) -> OrderSpec:
        return CheckShunts(channels=keys_of(channels))

    return order_of_channels(actor, setup_id, channel_ids, wanted)


def keys_of(channels: list[Channel]) -> list[str]:
    return sorted(c.key for c in channels)
