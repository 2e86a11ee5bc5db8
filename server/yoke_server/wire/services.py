"""Which sensor is on which input of a setup, and how it is connected and shown."""

from collections import Counter
from typing import Any

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.models import Input
from yoke_server.common.http.fields import comparison_key
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.common.units import is_unit_of, suitable_decimals
from yoke_server.ledger.services import Change
from yoke_server.sensors.models import Sensor
from yoke_server.setups.conditioning import check_channel, require_yoke_in_use
from yoke_server.setups.models import (
    Channel,
    Setup,
)
from yoke_server.setups.naming import require_free_name
from yoke_server.setups.services import (
    change_rows,
    channels_by_number,
    lock,
    lock_channel,
    plain,
    revise,
)
from yoke_server.wire.sensor_wiring import SensorWiring


@transaction.atomic
def add_channel(
    actor: Actor, setup_id: int, *, input_id: int, sensor_id: int, name: str
) -> Channel:
    """Give a free input a sensor from the library; a rosette takes the next inputs too.

    Its scaling comes with it: the one that it last had in this setup, which an engineer may
    have set, or else the library's.
    """
    require(actor, "wire channels")
    setup = lock(setup_id)
    plug = Input.objects.select_related("device").get(pk=input_id, device__bench=setup.bench)
    sensor = Sensor.objects.get(pk=sensor_id)
    require_yoke_in_use(actor, setup)
    wiring = SensorWiring(setup, [sensor])
    wiring.give(plug, sensor, name)
    made = wiring.save()
    kept = any(c.scaling != sensor.spec.channel()["scaling"] for c in made)
    action = f"Wired {name} to input {plug.label}" + (", with its earlier scaling" if kept else "")
    revise(actor, setup, action, [Change("channel", c.pk, None, plain(c)) for c in made])
    return made[0]


def _computed(setup: Setup) -> list[str]:
    """Names that computed channels have."""
    return [c.name for c in setup.computed]


def _check_name(setup: Setup, name: str, but: int = 0) -> None:
    others = [*setup.channels.exclude(pk=but).values_list("name", flat=True), *_computed(setup)]
    require_free_name(name, set(map(comparison_key, others)))


@transaction.atomic
def remove_channel(actor: Actor, channel_id: int) -> None:
    """Take the sensor off its input."""
    require(actor, "wire channels")
    setup, channel = lock_channel(channel_id)
    require_yoke_in_use(actor, setup)
    before = plain(channel)
    channel.delete()
    action = f"Took {channel.name} off input {channel.input.label}"
    revise(actor, setup, action, [Change("channel", channel_id, before, None)])


@transaction.atomic
def change_channel(actor: Actor, channel_id: int, **changes: Any) -> Channel:
    """Change wiring and display of a channel."""
    require(actor, "wire channels")
    setup, channel = lock_channel(channel_id)
    if name := changes.get("name"):
        _check_name(setup, name, but=channel.pk)
    changes = _with_decimals(channel, changes)
    check_channel(actor, setup, channel, changes)
    change_rows(actor, setup, f"Changed {channel.name}", [(channel, changes)])
    return channel


def _with_decimals(channel: Channel, changes: dict[str, Any]) -> dict[str, Any]:
    """Another unit brings decimals that suit it, unless others are asked for."""
    unit = changes.get("unit")
    if unit is None or "decimals" in changes or not is_unit_of(unit, channel.quantity):
        return changes
    return changes | {"decimals": suitable_decimals(channel.quantity, unit)}


@transaction.atomic
def change_channels(actor: Actor, setup_id: int, changes: dict[int, dict[str, Any]]) -> None:
    """Change many channels at once, as a fill-down does: one revision, one undo."""
    require(actor, "wire channels")
    setup = lock(setup_id)
    rows = channels_by_number(setup, changes)
    names = dict(setup.channels.values_list("pk", "name"))
    names |= {pk: fields["name"] for pk, fields in changes.items() if "name" in fields}
    looks = Counter(map(comparison_key, [*names.values(), *_computed(setup)]))
    if twice := sorted(n for n in names.values() if looks[comparison_key(n)] > 1):
        raise Problem(
            409,
            f"Two channels would be named {twice[0]}.",
            code=ProblemType.NAME_TAKEN,
            field="name",
            hint="Give each a name of its own.",
        )
    changes = {pk: _with_decimals(rows[pk], fields) for pk, fields in changes.items()}
    for number, fields in changes.items():
        check_channel(actor, setup, rows[number], fields)
    action = f"Changed {len(rows)} channels"
    change_rows(actor, setup, action, [(rows[pk], f) for pk, f in changes.items()])
