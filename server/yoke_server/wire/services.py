"""Every change to a setup: saved as it is made, one revision a deed, in the ledger, with undo."""

import json
from collections.abc import Sequence
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.db import transaction
from django.db.models import Model

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.drivers import registry
from yoke_server.bench.hooks import require_unlocked
from yoke_server.bench.models import Bench, Input
from yoke_server.bench.services import require_yoke
from yoke_server.common.notify import NEWS, notify
from yoke_server.common.problems import Problem
from yoke_server.common.units import DECIMALS, UNITS
from yoke_server.ledger.models import Entry
from yoke_server.ledger.services import Change, assign, record, undoable
from yoke_server.wire.conditioning import (
    CONDITIONING,
    check_channel,
    check_rate,
    require_yoke_in_use,
)
from yoke_server.wire.document import SCHEMA_VERSION, digest_of, read_document
from yoke_server.wire.freezing import freeze
from yoke_server.wire.models import (
    Balance,
    Channel,
    Measured,
    Sensor,
    Setup,
    SetupDevice,
    SetupRevision,
    ShuntCalibration,
    Tare,
)
from yoke_server.wire.naming import free_name, free_rosette
from yoke_server.wire.specs.base import Spec, plain_spec
from yoke_server.wire.specs.grid import Grid

PROGRAMME = frozenset({"motion", "stops"})
SCALING_FIELDS = {"scaling", "polarity"}
MISSING = object()  # a field that rows had when the change was made
ROWS: dict[str, type[Model]] = {"setup": Setup, "channel": Channel, "rate": SetupDevice}
MEASURED: dict[str, type[Measured]] = {
    "balance": Balance, "tare": Tare, "shunt": ShuntCalibration,
}  # fmt: skip
SUBJECTS = {model: name for name, model in (ROWS | MEASURED).items()}

Row = Channel | Setup | SetupDevice


class Encoder(DjangoJSONEncoder):
    """Knows specs too."""

    def default(self, o: Any) -> Any:
        return plain_spec(o) if isinstance(o, Spec) else super().default(o)


def plain(row: Model) -> dict[str, Any]:
    """A row's own columns as JSON values."""
    fields = {f.attname: getattr(row, f.attname) for f in row._meta.concrete_fields}
    return json.loads(json.dumps(fields, cls=Encoder))


def lock(setup_id: int) -> Setup:
    """The setup, locked for this transaction; refused while one of its runs records.

    Whatever is to be changed is read after this: before it, somebody else may be changing it.
    """
    setup = Setup.objects.select_for_update(of=("self",)).select_related("bench", "project").get(
        pk=setup_id
    )  # fmt: skip
    require_unlocked(setup.bench_id)
    return setup


def lock_channel(channel_id: int) -> tuple[Setup, Channel]:
    """A channel and its setup, locked."""
    setup = lock(Channel.objects.values_list("setup_id", flat=True).get(pk=channel_id))
    return setup, Channel.objects.select_related("input__device").get(pk=channel_id)


def revise(actor: Actor | None, setup: Setup, action: str, changes: Sequence[Change]) -> None:
    """One deed is done: one ledger entry, one revision, one piece of news."""
    record(actor, action, setup_id=setup.pk, changes=changes)
    keep_revision(actor, setup, action)


def keep_revision(actor: Actor | None, setup: Setup, action: str) -> None:
    """Keep the setup as it stands now, unless it stands as before; recorder and screens hear."""
    document = freeze(setup).model_dump(mode="json")
    digest = digest_of(document)
    last = setup.revisions.order_by("-number").values("number", "digest").first()
    news = {}  # with a version, which a screen may show already
    if last is None or last["digest"] != digest:
        setup.version = last["number"] + 1 if last else 1
        setup.save(update_fields=["version"])
        SetupRevision.objects.create(
            setup=setup, number=setup.version, schema_version=SCHEMA_VERSION, document=document,
            digest=digest, action=action[:120], actor=actor.user if actor else None,
        )  # fmt: skip
        news["version"] = setup.version
    notify(NEWS, kind="setup", setup=setup.pk, bench=setup.bench_id, **news)


def changed(row: Row, changes: dict[str, Any]) -> Change | None:
    """Set and save fields of a row; what changed, or None if nothing did."""
    before_all = plain(row)
    assign(row, changes)
    after_all = plain(row)
    before = {k: v for k, v in before_all.items() if after_all[k] != v}
    if not before:
        return None
    row.save(update_fields=list(changes))
    after = {k: after_all[k] for k in before}
    return Change(SUBJECTS[type(row)], row.pk, before, after)


def change_rows(
    actor: Actor, setup: Setup, action: str, rows: Sequence[tuple[Row, dict[str, Any]]]
) -> None:
    """Change fields of many rows as one deed; nothing happens if none differ."""
    changes = [c for row, fields in rows if (c := changed(row, fields))]
    if changes:
        revise(actor, setup, action, changes)


def add_measured(
    actor: Actor, setup: Setup, action: str, rows: Sequence[tuple[type[Measured], str, Any]]
) -> None:
    """Add measured facts of channels, (kind, channel key, fields), as one deed."""
    changes = []
    for model, key, fields in rows:
        before = _in_force(model, setup, key, fields)
        model._default_manager.create(setup=setup, channel_key=key, actor=actor.user, **fields)
        changes.append(Change(SUBJECTS[model], key, before, fields))
    if changes:
        revise(actor, setup, action, changes)


def _in_force(model: type[Measured], setup: Setup, key: str, fields: Any) -> dict[str, Any]:
    """The newest fact's fields; all null where there is none yet."""
    rows = model._default_manager.filter(setup=setup, channel_key=key).order_by("-id")
    return rows.values(*fields).first() or dict.fromkeys(fields)


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
    made = wire_places(setup, plug, sensor, name)
    kept = any(c.scaling != sensor.spec.channel()["scaling"] for c in made)
    action = f"Wired {name} to input {plug.label}" + (", with its earlier scaling" if kept else "")
    revise(actor, setup, action, [Change("channel", c.pk, None, plain(c)) for c in made])
    return made[0]


def wire_places(setup: Setup, plug: Input, sensor: Sensor, name: str = "") -> list[Channel]:
    """The channels of a sensor at an input, and those after it for a rosette's other grids."""
    if not name:
        taken = set(setup.channels.values_list("name", flat=True))
        rosette = sensor.spec.kind == "rosette"
        name = free_rosette(taken) if rosette else free_name(sensor.quantity, taken)
    kept = _scaling_kept(setup, sensor) or {}
    beginning = {"rate_hz": registry.offers(plug.device.driver).usual_hz}
    SetupDevice.objects.get_or_create(setup=setup, device=plug.device, defaults=beginning)
    return [
        _wire_one(setup, sensor, place, called, {"grid": grid, **kept})
        for place, called, grid in _places(plug, sensor, name)
    ]


def _places(plug: Input, sensor: Sensor, name: str) -> list[tuple[Input, str, Grid | None]]:
    """Which inputs a sensor takes, under which names; of a rosette one a grid, from a on."""
    if sensor.spec.kind != "rosette":
        return [(plug, name, None)]
    angles = sensor.spec.angles
    after = plug.device.inputs.select_related("device").filter(number__gte=plug.number)
    inputs = list(after.order_by("number")[: len(angles)])
    if len(inputs) < len(angles):
        raise Problem(
            409, f"From input {plug.label} on there are only {len(inputs)} inputs.",
            field="input_id", hint=f"Begin at an input with {len(angles) - 1} more behind it.",
        )  # fmt: skip
    grids = [Grid(rosette=name, angle=angle) for angle in angles]
    return list(zip(inputs, (f"{name[:29]}{x}" for x in "abc"), grids, strict=True))


def _wire_one(setup: Setup, sensor: Sensor, plug: Input, name: str, more: Any) -> Channel:
    _check_free(setup, plug, name)
    _check_fits(plug, sensor)
    return Channel.objects.create(
        setup=setup,
        input=plug,
        name=name,
        sensor=sensor,
        quantity=sensor.quantity,
        unit=UNITS[sensor.quantity][0],
        decimals=DECIMALS[sensor.quantity],
        **{**sensor.spec.channel(), **more},
    )


def _check_fits(plug: Input, sensor: Sensor) -> None:
    if sensor.retired_at:
        raise Problem(
            409, f"{sensor.serial} is out of use.", field="sensor_id",
            hint="Take it into use again in the library, or choose another one.",
        )  # fmt: skip
    wanted = sensor.signal
    if plug.signal != wanted:
        raise Problem(
            409,
            f"Input {plug.label} measures a {plug.signal}, and {sensor.name} gives a {wanted}.",
            field="input_id",
            hint=f"Choose an input that measures a {wanted}.",
        )


def _scaling_kept(setup: Setup, sensor: Sensor) -> dict[str, Any] | None:
    """The scaling that a sensor last had in a setup, if it was wired there before."""
    wired = setup.revisions.filter(document__channels__contains=[{"sensor_serial": sensor.serial}])
    last = wired.order_by("-number").first()
    if last is None:
        return None
    channels = read_document(last.document).channels
    found = next((c for c in channels if c.sensor_serial == sensor.serial), None)
    return {name: getattr(found, name) for name in SCALING_FIELDS} if found else None


def _check_free(setup: Setup, plug: Input, name: str) -> None:
    taken = setup.channels.filter(input=plug).first()
    if taken:
        raise Problem(
            409,
            f"Input {plug.label} already has {taken.name}.",
            field="input_id",
            hint="Take its sensor off first, or choose a free input.",
        )
    _check_name(setup, name)


def _check_name(setup: Setup, name: str, but: int = 0) -> None:
    if setup.channels.filter(name__iexact=name).exclude(pk=but).exists():
        raise Problem(
            409, f"There is a channel {name} already.", field="name", hint="Choose another name."
        )


@transaction.atomic
def remove_channel(actor: Actor, channel_id: int) -> None:
    """Take the sensor off its input."""
    require(actor, "wire channels")
    setup, channel = lock_channel(channel_id)
    require_yoke_in_use(actor, setup)
    before = plain(channel)
    channel.delete()
    action = f"Took {channel.name} off input {channel.input.label}"
    revise(actor, setup, action, [Change("channel", before["id"], before, None)])


@transaction.atomic
def change_channel(actor: Actor, channel_id: int, **changes: Any) -> Channel:
    """Change wiring and display of a channel."""
    require(actor, "wire channels")
    setup, channel = lock_channel(channel_id)
    if name := changes.get("name"):
        _check_name(setup, name, but=channel.pk)
    check_channel(actor, setup, channel, changes)
    change_rows(actor, setup, f"Changed {channel.name}", [(channel, changes)])
    return channel


@transaction.atomic
def change_channels(actor: Actor, setup_id: int, changes: dict[int, dict[str, Any]]) -> None:
    """Change many channels at once, as a fill-down does: one revision, one undo."""
    require(actor, "wire channels")
    setup = lock(setup_id)
    rows = {c.pk: c for c in setup.channels.select_related("input__device").filter(pk__in=changes)}
    if missing := set(changes) - set(rows):
        raise Problem(404, f"This setup has no channel {min(missing)}.", field="channels")
    names = dict(setup.channels.values_list("pk", "name"))
    names |= {pk: fields["name"] for pk, fields in changes.items() if "name" in fields}
    if twice := sorted(n for n in set(names.values()) if list(names.values()).count(n) > 1):
        raise Problem(
            409, f"Two channels would be named {twice[0]}.", field="name",
            hint="Give each a name of its own.",
        )  # fmt: skip
    for number, fields in changes.items():
        check_channel(actor, setup, rows[number], fields)
    action = f"Changed {len(rows)} channels"
    change_rows(actor, setup, action, [(rows[pk], f) for pk, f in changes.items()])


@transaction.atomic
def change_setup(actor: Actor, setup_id: int, **changes: Any) -> Setup:
    """Change specimen, pull and run names; while somebody drives the bench with this setup, what
    a run does is theirs."""
    require(actor, "change the specimen")
    setup = lock(setup_id)
    if PROGRAMME & set(changes):
        require_yoke_in_use(actor, setup)
    action = f"Changed {', '.join(sorted(changes)).replace('_', ' ')}"
    change_rows(actor, setup, action, [(setup, changes)])
    return setup


@transaction.atomic
def put_on_bench(actor: Actor, setup_id: int) -> None:
    """Have the bench work with this setup from now on; its recorder follows."""
    require(actor, "drive the bench")
    setup = lock(setup_id)
    bench = Bench.objects.select_for_update(of=("self",)).get(pk=setup.bench_id)
    if bench.active_setup_id == setup.pk:
        return
    require_yoke(actor, bench)
    bench.active_setup = setup
    bench.save(update_fields=["active_setup"])
    record(actor, f"Put {setup.name} of {setup.project.name} on {bench.name}")
    notify(NEWS, kind="setup", setup=setup.pk, bench=bench.pk)
    notify(NEWS, kind="bench", bench=bench.pk)


@transaction.atomic
def change_rate(actor: Actor, setup_id: int, device_id: int, rate_hz: float) -> Setup:
    """Change the rate at which the setup has a device sample."""
    require(actor, "change the specimen")
    setup = lock(setup_id)
    row = setup.devices.select_related("device").get(device_id=device_id)
    require_yoke_in_use(actor, setup)
    check_rate(row.device, rate_hz)
    action = f"Changed the rate of {row.device.label}"
    change_rows(actor, setup, action, [(row, {"rate_hz": rate_hz})])
    return setup


@transaction.atomic
def undo(actor: Actor, setup_id: int, *, redo: bool = False) -> str:
    """Take back (or do again) the last change; says which."""
    setup = lock(setup_id)
    entry = undoable(setup_id, undone=redo)
    if not entry:
        raise Problem(409, "There is nothing to redo." if redo else "There is nothing to undo.")
    changes = [Change(**c) for c in entry.changes]
    require(actor, _right_to_undo(changes))
    if any(map(_touches_conditioning, changes)):
        require_yoke_in_use(actor, setup)
    for change in changes if redo else reversed(changes):
        _apply(actor, setup, entry, change if redo else change.turned())
    entry.undone = not redo
    entry.save(update_fields=["undone"])
    action = f"{'Redid' if redo else 'Undid'}: {entry.action}"
    record(actor, action)
    setup.refresh_from_db()
    keep_revision(actor, setup, action)
    return entry.action


def _right_to_undo(changes: Sequence[Change]) -> str:
    """Taking back a scaling is changing it; a sensor wired or taken off is wiring."""
    fields = {f for c in changes for f in set(c.before or ()) & set(c.after or ())}
    return "change scaling" if fields & SCALING_FIELDS else "wire channels"


def _touches_conditioning(change: Change) -> bool:
    """Whether undoing it changes what a run measures or does: a sensor comes or goes, or a
    setting, a rate, motion or stops differ."""
    if change.subject not in ("channel", "rate", "setup"):
        return False
    fields = set(change.before or ()) & set(change.after or ())
    sets = CONDITIONING | PROGRAMME | {"input_id"}
    return not fields or change.subject == "rate" or bool(fields & sets)


def _apply(actor: Actor, setup: Setup, entry: Entry, change: Change) -> None:
    """Bring ``change.after`` in force where ``change.before`` stands; said where it does not."""
    if model := MEASURED.get(change.subject):
        model._default_manager.create(
            setup=setup, channel_key=change.id, actor=actor.user, **(change.after or {})
        )
        return
    rows = ROWS[change.subject]._default_manager.filter(pk=change.id)
    row = rows.first()
    now = None if row is None else plain(row)
    expected = change.before
    if (now is None) != (expected is None) or any(
        now is not None and now.get(k, MISSING) != v for k, v in (expected or {}).items()
    ):
        raise Problem(
            409,
            f"“{entry.action}” cannot be taken back: somebody changed the same since.",
            hint="Look at what stands there now and change it by hand.",
        )
    if change.after is None:
        rows.delete()
    elif row is None:
        ROWS[change.subject]._default_manager.create(**change.after)
    else:
        rows.update(**change.after)
