"""Starting, stopping and putting right of runs; orders to a bench."""

from typing import Any

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.models import Bench
from yoke_server.bench.services import require_yoke, send, wait_for
from yoke_server.common.notify import NEWS, notify
from yoke_server.common.problems import Problem
from yoke_server.ledger.services import Change, record
from yoke_server.record.models import Correction, Run
from yoke_server.record.preflight import require_startable
from yoke_server.record.queries import SPECIMEN, open_run, specimen_of
from yoke_server.wire.models import Setup


def start_run(actor: Actor, setup_id: int, *, pull: bool = True) -> Run:
    """Begin to record; with ``pull`` the actuator ramps once recording runs.

    The recorder makes the run, with its first samples; an order that it does not carry out
    leaves none behind.
    """
    require(actor, "drive the bench")
    with transaction.atomic():
        setup = Setup.objects.select_for_update(of=("self",)).select_related("bench").get(
            pk=setup_id
        )  # fmt: skip
        require_yoke(actor, setup.bench)
        require_startable(setup)
        revision = setup.revisions.get(number=setup.version)
        order = send(
            actor, setup.bench, "start", revision=revision.pk, pull=pull, operator=actor.user.pk
        )
        record(actor, f"Ordered a run of {setup.name}")
    return Run.objects.get(pk=wait_for(order)["run"])


def stop_run(actor: Actor, run_id: int) -> Run:
    """Stop recording and the actuator; the run is kept."""
    bench_id = Run.objects.values_list("setup__bench_id", flat=True).get(pk=run_id)
    stop_bench(actor, bench_id, run=run_id)
    return Run.objects.get(pk=run_id)


def stop_bench(actor: Actor, bench_id: int, **arguments: Any) -> None:
    """Stop what is being recorded, or is about to be."""
    require(actor, "drive the bench")
    with transaction.atomic():
        bench = Bench.objects.get(pk=bench_id)
        require_yoke(actor, bench)
        order = send(actor, bench, "stop", why="Stopped by hand", **arguments)
        record(actor, f"Ordered stop on {bench.name}")
    wait_for(order)


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
        order = send(actor, bench, kind)
        record(actor, f"Ordered {kind} on {bench.name}")
    wait_for(order)


def reset_peaks(actor: Actor, bench_id: int, channels: list[str]) -> None:
    """Lowest and highest begin anew on every screen; of all channels if none are named."""
    require(actor, "drive the bench")
    with transaction.atomic():
        bench = Bench.objects.get(pk=bench_id)
        require_yoke(actor, bench)
        order = send(actor, bench, "reset_peaks", channels=channels)
        record(actor, f"Reset the peaks of {len(channels) or 'all'} channels on {bench.name}")
    wait_for(order)


@transaction.atomic
def change_run(actor: Actor, run_id: int, *, reason: str = "", **changes: Any) -> Run:
    """Put a run's specimen or notes right; samples and the setup of its time stay."""
    require(actor, "change the specimen")
    run = Run.objects.select_for_update().get(pk=run_id)
    now = {**specimen_of(run), "notes": run.notes}
    changes = {k: v for k, v in changes.items() if now[k] != v}
    if not changes:
        return run
    if "notes" in changes:
        run.notes = changes["notes"]
        run.save(update_fields=["notes"])
    if put_right := {k: v for k, v in changes.items() if k in SPECIMEN}:
        Correction.objects.create(run=run, actor=actor.user, reason=reason, changes=put_right)
    before = {k: now[k] for k in changes}
    record(actor, f"Changed {run.name}", changes=[Change("run", run.pk, before, changes)])
    notify(NEWS, kind="run", setup=run.setup_id, run=run.pk)
    return run
