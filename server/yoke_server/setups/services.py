"""Every change to a setup: saved at once, one revision an action, in the ledger, with undo."""

import json
from collections.abc import Collection, Mapping, Sequence
from typing import Any

from django.core.serializers.json import DjangoJSONEncoder
from django.db import transaction
from django.db.models import Model

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.hooks import require_unlocked
from yoke_server.bench.models import Bench
from yoke_server.bench.services import require_yoke
from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.spec import Spec, plain_spec
from yoke_server.ledger.services import Change, assign, record
from yoke_server.setups.conditioning import check_rate, require_yoke_in_use
from yoke_server.setups.document import SCHEMA_VERSION, fingerprint_of
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import (
    Balance,
    Channel,
    Measured,
    Setup,
    SetupDevice,
    SetupRevision,
    ShuntCalibration,
    Tare,
)

PROGRAMME = frozenset({"motion", "stops", "guards", "keep_rules", "trigger"})


ROWS: dict[str, type[Model]] = {"setup": Setup, "channel": Channel, "rate": SetupDevice}


MEASURED: dict[str, type[Measured]] = {
    "balance": Balance,
    "tare": Tare,
    "shunt": ShuntCalibration,
}


SUBJECTS = {model: name for name, model in (ROWS | MEASURED).items()}


Row = Channel | Setup | SetupDevice


class Encoder(DjangoJSONEncoder):
    """Knows specs too."""

    def default(self, o: Any) -> Any:
        return plain_spec(o) if isinstance(o, Spec) else super().default(o)


def plain(row: Model) -> dict[str, object]:
    """A row's own columns as JSON values."""
    fields = {f.attname: getattr(row, f.attname) for f in row._meta.concrete_fields}
    return json.loads(json.dumps(fields, cls=Encoder))


def lock(setup_id: int, *, while_recording: bool = False) -> Setup:
    """The setup, locked for this transaction; refused while one of its runs records.

    Whatever is to be changed is read after this: before it, somebody else may be changing it.

    while_recording : what is changed is how samples are read, not what is measured: a run that
        records keeps the readings that it began with
    """
    setup = (
        Setup.objects.select_for_update(of=("self",))
        .select_related("bench", "project")
        .get(pk=setup_id)
    )
    if not while_recording:
        require_unlocked(setup.bench_id)
    return setup


def lock_channel(channel_id: int, *, while_recording: bool = False) -> tuple[Setup, Channel]:
    """A channel and its setup, locked."""
    setup_id = Channel.objects.values_list("setup_id", flat=True).get(pk=channel_id)
    setup = lock(setup_id, while_recording=while_recording)
    return setup, Channel.objects.select_related("input__device").get(pk=channel_id)


def channels_by_number(setup: Setup, wanted: Collection[int]) -> dict[int, Channel]:
    """The channels of a setup with these numbers; a 404 problem if it has one of them not."""
    rows = setup.channels.select_related("input__device").filter(pk__in=wanted)
    found = {c.pk: c for c in rows}
    if missing := set(wanted) - set(found):
        raise Problem(404, f"This setup has no channel {min(missing)}.", field="channels")
    return found


def revise(actor: Actor | None, setup: Setup, action: str, changes: Sequence[Change]) -> None:
    """One action is done: one ledger entry, one revision, one piece of news."""
    record(actor, action, setup_id=setup.pk, changes=changes)
    keep_revision(actor, setup, action)


def keep_revision(actor: Actor | None, setup: Setup, action: str) -> None:
    """Keep the setup as it stands now, unless it stands as before; recorder and screens hear."""
    document = freeze(setup).model_dump(mode="json")
    fingerprint = fingerprint_of(document)
    last = setup.revisions.order_by("-number").values("number", "fingerprint").first()
    news = {}  # with a version, which a screen may show already
    if last is None or last["fingerprint"] != fingerprint:
        setup.version = last["number"] + 1 if last else 1
        setup.save(update_fields=["version"])
        SetupRevision.objects.create(
            setup=setup,
            number=setup.version,
            schema_version=SCHEMA_VERSION,
            document=document,
            fingerprint=fingerprint,
            action=action[:120],
            actor=actor.user if actor else None,
        )
        news["version"] = setup.version
    notify(NEWS, kind="setup", setup=setup.pk, bench=setup.bench_id, **news)


def changed(row: Row, changes: Mapping[str, object]) -> Change | None:
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
    actor: Actor, setup: Setup, action: str, rows: Sequence[tuple[Row, Mapping[str, object]]]
) -> None:
    """Change fields of many rows as one action; nothing happens if none differ."""
    changes = [c for row, fields in rows if (c := changed(row, fields))]
    if changes:
        revise(actor, setup, action, changes)


def add_measured(
    actor: Actor, setup: Setup, action: str, rows: Sequence[tuple[type[Measured], str, Any]]
) -> None:
    """Add measured facts of channels, (kind, channel key, fields), as one action."""
    changes = []
    for model, key, fields in rows:
        before = _in_force(model, setup, key, fields)
        model._default_manager.create(setup=setup, channel_key=key, actor=actor.user, **fields)
        changes.append(Change(SUBJECTS[model], key, before, fields))
    if changes:
        revise(actor, setup, action, changes)


def _in_force(model: type[Measured], setup: Setup, key: str, fields: Any) -> dict[str, object]:
    """The newest fact's fields; all null where there is none yet."""
    rows = model._default_manager.filter(setup=setup, channel_key=key).order_by("-id")
    return rows.values(*fields).first() or dict.fromkeys(fields)


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


def take_bench(setup: Setup, bench: Bench) -> None:
    """Have a bench, which is locked, work with a setup instead of what it works with now."""
    Setup.objects.filter(on_bench=bench).update(on_bench=None)
    setup.on_bench = bench
    setup.save(update_fields=["on_bench"])


@transaction.atomic
def put_on_bench(actor: Actor, setup_id: int) -> None:
    """Have the bench work with this setup from now on; its recorder follows."""
    require(actor, "drive the bench")
    setup = lock(setup_id)
    bench = Bench.objects.select_for_update(of=("self",)).get(pk=setup.bench_id)
    if setup.on_bench_id:
        return
    require_yoke(actor, bench)
    take_bench(setup, bench)
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
