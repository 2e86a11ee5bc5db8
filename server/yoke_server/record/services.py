"""Starting, stopping and putting right of runs."""

import shutil
import string
from datetime import UTC, datetime
from typing import Any

from django.db import connection, transaction
from django.db.models import Max

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.models import Bench, Link
from yoke_server.bench.services import require_yoke, send, wait_for
from yoke_server.calibrate.scaling import scaling_of
from yoke_server.config.notify import NEWS, notify
from yoke_server.config.problems import Problem
from yoke_server.ledger.services import assign, record
from yoke_server.record.models import Run, RunState
from yoke_server.record.queries import open_run
from yoke_server.wire.frozen import freeze
from yoke_server.wire.models import Setup

LEAST_SPACE = 500_000_000  # bytes; a run is not begun with less


def gaps(setup: Setup) -> list[dict[str, str]]:
    """The preflight list: what stands between this setup and a run, and where to mend it."""
    channels = list(setup.channels.all())
    found = []
    if not channels:
        found.append({"stage": "wire", "text": "No channel is wired: give an input a sensor."})
    for channel in channels:
        if channel.zero_mv_v is None:
            found.append({"stage": "calibrate", "text": f"{channel.name} is not zeroed."})
    if setup.runs.filter(state=RunState.KEPT, specimen=setup.specimen).exists():
        text = f"{setup.specimen} was pulled already: name the next specimen."
        found.append({"stage": "record", "text": text})
    devices = [*setup.bench.amplifiers.all(), getattr(setup.bench, "actuator", None)]
    for device in devices:
        if device is not None and device.link != Link.LINKED:
            why = device.link_note or "it has not answered yet"
            found.append({"stage": "wire", "text": f"{device.label} is not linked: {why}"})
    return found


def run_name(setup: Setup, number: int) -> str:
    """The name from the setup's pattern: {specimen}, {number}, {setup}, {date}, {time}."""
    now = datetime.now(UTC)
    values = {
        "specimen": setup.specimen,
        "number": f"{number}",
        "setup": setup.name,
        "date": f"{now:%Y-%m-%d}",
        "time": f"{now:%H%M%S}",
    }
    check_pattern(setup.run_name_pattern)
    return setup.run_name_pattern.format(**values)[:80]


def check_pattern(pattern: str) -> None:
    """Raise a 422 problem for a pattern with fields we do not have."""
    allowed = ("specimen", "number", "setup", "date", "time")
    try:
        parts = [p[1:] for p in string.Formatter().parse(pattern) if p[1] is not None]
    except ValueError:
        parts = [("{", "", None)]
    # A width or conversion is refused too: {number:>999999999} would fill the memory.
    if wrong := [n for n, form, conversion in parts if n not in allowed or form or conversion]:
        raise Problem(
            422,
            f"The run name's pattern knows no “{wrong[0]}”.",
            field="run_name_pattern",
            hint="Use " + ", ".join(f"{{{f}}}" for f in allowed) + ".",
        )


def start_run(actor: Actor, setup_id: int, *, pull: bool = True) -> Run:
    """Begin to record; with ``pull`` the actuator ramps once recording runs."""
    require(actor, "drive the bench")
    with transaction.atomic():
        setup = Setup.objects.select_for_update().select_related("bench").get(pk=setup_id)
        bench = Bench.objects.select_for_update().get(pk=setup.bench_id)
        require_yoke(actor, bench)
        _check_startable(setup)
        number = (setup.runs.aggregate(m=Max("number"))["m"] or 0) + 1
        run = Run.objects.create(
            setup=setup,
            number=number,
            name=run_name(setup, number),
            operator=actor.user,
            frozen=freeze(setup).model_dump(mode="json"),
            specimen=setup.specimen,
            width_m=setup.width_m,
            thickness_m=setup.thickness_m,
            gauge_length_m=setup.gauge_length_m,
        )
        command = send(actor, bench, "start", run=run.pk, pull=pull)
        record(actor, f"Started {run.name}", "event", run.pk)
        notify(NEWS, kind="run", setup=setup.pk, run=run.pk)
    try:
        wait_for(command)
    except Problem as problem:
        Run.objects.filter(pk=run.pk, state=RunState.STARTING).update(
            state=RunState.FAILED, ended_because=problem.title, ended_at=datetime.now(UTC)
        )
        raise
    run.refresh_from_db()
    return run


def _check_startable(setup: Setup) -> None:
    if not setup.channels.exists():
        raise Problem(
            409,
            "There is no channel to record.",
            field="channels",
            hint="Go to Wire and give an input a sensor.",
        )
    for channel in setup.channels.all():
        scaling_of(channel)
    if running := open_run(setup.bench_id):
        raise Problem(409, f"{running.name} is still being recorded.", hint="Stop it first.")
    if setup.bench.active_setup_id != setup.pk:
        raise Problem(
            409, "The bench works with another setup.", hint="Put this setup on the bench first."
        )
    free = free_space()
    if free is not None and free < LEAST_SPACE:
        raise Problem(
            409,
            f"The disk has only {free / 1e6:.0f} MB left.",
            hint="Make room on the database's disk, then start again.",
        )


def free_space() -> int | None:
    """Bytes free where the database lies, if that is this computer."""
    if connection.settings_dict["HOST"] not in ("127.0.0.1", "localhost", "::1"):
        return None
    return shutil.disk_usage("/").free


def stop_run(actor: Actor, run_id: int) -> Run:
    """Stop recording and the actuator; the run is kept."""
    require(actor, "drive the bench")
    with transaction.atomic():
        run = Run.objects.select_related("setup__bench").get(pk=run_id)
        require_yoke(actor, run.setup.bench)
        command = send(actor, run.setup.bench, "stop", run=run.pk, why="Stopped by hand")
        record(actor, f"Stopped {run.name}", "event", run.pk)
    wait_for(command)
    run.refresh_from_db()
    return run


def order_bench(actor: Actor, bench_id: int, kind: str) -> None:
    """`emergency` stops actuator and recording at once; `return` drives the actuator home.

    The emergency stop is everybody's who may drive a bench, yoke or not.
    """
    require(actor, "drive the bench")
    with transaction.atomic():
        bench = Bench.objects.get(pk=bench_id)
        if kind != "emergency":
            require_yoke(actor, bench)
            if run := open_run(bench_id):
                raise Problem(409, f"{run.name} is being recorded.", hint="Stop it first.")
        command = send(actor, bench, kind)
        record(actor, f"Ordered {kind} on {bench.name}", "event", bench.pk)
    wait_for(command)


@transaction.atomic
def change_run(actor: Actor, run_id: int, **changes: Any) -> Run:
    """Put a run's specimen or notes right; samples and frozen setup stay."""
    require(actor, "change the specimen")
    run = Run.objects.select_for_update().get(pk=run_id)
    before = assign(run, changes)
    run.save(update_fields=list(changes))
    record(actor, f"Changed {run.name}", "run", run.pk, before=before, after=changes)
    notify(NEWS, kind="run", setup=run.setup_id, run=run.pk)
    return run
