"""Every change to a setup: saved as it is made, in the ledger, with undo."""

import json
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.db import transaction
from django.db.models import Model

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.models import Amplifier
from yoke_server.config.notify import NEWS, notify
from yoke_server.config.problems import Problem
from yoke_server.ledger.models import Entry
from yoke_server.ledger.services import assign, record, undoable
from yoke_server.record.queries import open_run
from yoke_server.wire.models import Channel, Quantity, ScalingKind, Sensor, Setup

SCALING_FIELDS = {
    "scaling_kind", "gauge_factor", "poisson_ratio", "rated_output_mv_v", "capacity",
    "point_1_mv_v", "point_1_value", "point_2_mv_v", "point_2_value", "reversed",
}  # fmt: skip
DISPLAY = {
    Quantity.FORCE: ("kN", 3),
    Quantity.EXTENSION: ("mm", 4),
    Quantity.STRAIN: ("µm/m", 1),
}


def plain(row: Model) -> dict[str, Any]:
    """A row's own columns as JSON values."""
    fields = {f.attname: getattr(row, f.attname) for f in row._meta.concrete_fields}
    return json.loads(json.dumps(fields, cls=DjangoJSONEncoder))


def lock(setup_id: int) -> Setup:
    """The setup, locked for this transaction; refused while one of its runs records."""
    setup = Setup.objects.select_for_update().get(pk=setup_id)
    if run := open_run(setup.bench_id):
        raise Problem(409, f"{run.name} is being recorded.", hint="Stop it, then change the setup.")
    return setup


def touched(setup: Setup) -> None:
    """A new version of the setup; recorder and browsers hear of it."""
    setup.version += 1
    setup.save(update_fields=["version"])
    notify(NEWS, kind="setup", setup=setup.pk, bench=setup.bench_id)


def change_row(
    actor: Actor, setup: Setup, row: Channel | Setup, action: str, **changes: Any
) -> None:
    """Change fields of a channel or of the setup itself; nothing happens if none differ."""
    before_all = plain(row)
    assign(row, changes)
    after_all = plain(row)
    before = {k: v for k, v in before_all.items() if after_all[k] != v}
    if not before:
        return
    row.save(update_fields=list(changes))
    subject = "setup" if isinstance(row, Setup) else "channel"
    after = {k: after_all[k] for k in before}
    record(actor, action, subject, row.pk, setup_id=setup.pk, before=before, after=after)
    touched(setup)


@transaction.atomic
def add_channel(
    actor: Actor, setup_id: int, *, amplifier_id: int, input_number: int, sensor_id: int, name: str
) -> Channel:
    """Give a free input a sensor from the library; scaling comes with the sensor."""
    require(actor, "wire channels")
    setup = lock(setup_id)
    amplifier = Amplifier.objects.get(pk=amplifier_id, bench=setup.bench)
    sensor = Sensor.objects.get(pk=sensor_id)
    _check_free(setup, amplifier, input_number, name)
    unit, decimals = DISPLAY[Quantity(sensor.quantity)]
    strain = sensor.quantity == Quantity.STRAIN
    channel = Channel.objects.create(
        setup=setup,
        amplifier=amplifier,
        input_number=input_number,
        name=name,
        sensor=sensor,
        quantity=sensor.quantity,
        arrangement=sensor.arrangement,
        wires=sensor.wires,
        resistance_ohm=sensor.resistance_ohm,
        scaling_kind=ScalingKind.STRAIN if strain else ScalingKind.RATED_OUTPUT,
        gauge_factor=sensor.gauge_factor,
        rated_output_mv_v=sensor.rated_output_mv_v,
        capacity=sensor.capacity,
        unit=unit,
        decimals=decimals,
    )
    record(
        actor, f"Wired {name} to input {input_number}", "channel", channel.pk,
        setup_id=setup.pk, before=None, after=plain(channel),
    )  # fmt: skip
    touched(setup)
    return channel


def _check_free(setup: Setup, amplifier: Amplifier, input_number: int, name: str) -> None:
    if not 1 <= input_number <= amplifier.input_count:
        raise Problem(
            422,
            f"{amplifier.label} has inputs 1 to {amplifier.input_count}.",
            field="input_number",
        )
    taken = setup.channels.filter(amplifier=amplifier, input_number=input_number).first()
    if taken:
        raise Problem(
            409,
            f"Input {input_number} already has {taken.name}.",
            field="input_number",
            hint="Take its sensor off first, or choose a free input.",
        )
    if setup.channels.filter(name=name).exists():
        raise Problem(
            409, f"There is a channel {name} already.", field="name", hint="Choose another name."
        )


@transaction.atomic
def remove_channel(actor: Actor, channel_id: int) -> None:
    """Take the sensor off its input."""
    require(actor, "wire channels")
    channel = Channel.objects.get(pk=channel_id)
    setup = lock(channel.setup_id)
    before = plain(channel)
    channel.delete()
    record(
        actor, f"Took {channel.name} off input {channel.input_number}", "channel",
        before["id"], setup_id=setup.pk, before=before, after=None,
    )  # fmt: skip
    touched(setup)


@transaction.atomic
def change_channel(actor: Actor, channel_id: int, **changes: Any) -> Channel:
    """Change wiring and display of a channel."""
    require(actor, "wire channels")
    channel = Channel.objects.get(pk=channel_id)
    setup = lock(channel.setup_id)
    name = changes.get("name")
    if name and setup.channels.filter(name=name).exclude(pk=channel.pk).exists():
        raise Problem(
            409, f"There is a channel {name} already.", field="name", hint="Choose another name."
        )
    change_row(actor, setup, channel, f"Changed {channel.name}", **changes)
    return channel


@transaction.atomic
def change_setup(actor: Actor, setup_id: int, **changes: Any) -> Setup:
    """Change rate, specimen, pull and run names."""
    require(actor, "change the specimen")
    setup = lock(setup_id)
    change_row(actor, setup, setup, f"Changed {', '.join(sorted(changes))}", **changes)
    return setup


@transaction.atomic
def undo(actor: Actor, setup_id: int, *, redo: bool = False) -> str:
    """Take back (or do again) the last change; says which."""
    setup = lock(setup_id)
    entry = undoable(setup_id, undone=redo)
    if not entry:
        raise Problem(409, "There is nothing to redo." if redo else "There is nothing to undo.")
    require(actor, _right_to_undo(entry))
    _apply(entry, entry.after if redo else entry.before)
    entry.undone = not redo
    entry.save(update_fields=["undone"])
    record(actor, f"{'Redid' if redo else 'Undid'}: {entry.action}", "event", entry.subject_id)
    setup.refresh_from_db()
    touched(setup)
    return entry.action


def _right_to_undo(entry: Entry) -> str:
    """Taking back a scaling is changing it; a sensor wired or taken off is wiring."""
    changed = set(entry.before or ()) & set(entry.after or ())
    return "change scaling" if changed & SCALING_FIELDS else "wire channels"


def _apply(entry: Entry, fields: dict[str, Any] | None) -> None:
    model: type[Channel] | type[Setup] = Setup if entry.subject == "setup" else Channel
    rows = model._default_manager.filter(pk=entry.subject_id)
    if fields is None:
        rows.delete()
    elif rows.exists():
        rows.update(**fields)
    else:
        model._default_manager.create(**fields)
