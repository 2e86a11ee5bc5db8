"""Runs that nobody wants: discarded with a reason, restored for some time, then deleted."""

from datetime import UTC, datetime, timedelta

from django.db import transaction
from procrastinate.contrib.django import app

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.ledger.services import record
from yoke_server.record.hooks import holders
from yoke_server.record.models import OPEN_STATES, Run

KEPT_DAYS = 30  # that a discarded run can be restored


@transaction.atomic
def discard_run(actor: Actor, run_id: int, *, reason: str) -> Run:
    """Take a run out of all lists; its samples stay for `KEPT_DAYS`. Nothing may need it."""
    require(actor, "drive the bench")
    run = Run.objects.select_for_update(of=("self",)).get(pk=run_id)
    if run.state in OPEN_STATES:
        raise Problem(
            409,
            f"{run.name} is still being recorded.",
            code=ProblemType.BEING_RECORDED,
            hint="Stop it first.",
        )
    if user := next((who for holds in holders if (who := holds(run))), ""):
        raise Problem(
            409,
            f"{run.name} is used by {user}.",
            code=ProblemType.IN_USE,
            hint="Take it out there first.",
        )
    run.discarded_at, run.discarded_because = datetime.now(UTC), reason
    run.save(update_fields=["discarded_at", "discarded_because"])
    record(actor, f"Discarded {run.name}: {reason}")
    notify(NEWS, kind="run", setup=run.setup_id, run=run.pk)
    return run


@transaction.atomic
def restore_run(actor: Actor, run_id: int) -> Run:
    """Bring a discarded run back as it was."""
    require(actor, "drive the bench")
    run = Run.everything.select_for_update(of=("self",)).get(pk=run_id, is_dry=False)
    if run.discarded_at is None:
        return run
    run.discarded_at, run.discarded_because = None, ""
    run.save(update_fields=["discarded_at", "discarded_because"])
    record(actor, f"Restored {run.name}")
    notify(NEWS, kind="run", setup=run.setup_id, run=run.pk)
    return run


@app.periodic(cron="41 * * * *")
@app.task(name="delete_discarded_runs")
def delete_discarded_runs(timestamp: int = 0) -> None:
    """Runs that were discarded long ago, and dry ones that have ended."""
    past = datetime.now(UTC) - timedelta(days=KEPT_DAYS)
    discarded = Run.everything.filter(discarded_at__isnull=False)
    for run in discarded.filter(is_dry=True) | discarded.filter(discarded_at__lt=past):
        with transaction.atomic():
            if not run.is_dry:
                record(None, f"Deleted {run.name}, discarded {run.discarded_at:%Y-%m-%d}")
            run.delete()
