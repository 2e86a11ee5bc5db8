"""Making and changing reports."""

from typing import Any

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.common.tasks.worker import order
from yoke_server.derive.computing import add_suggested
from yoke_server.kinds.spec import plain_spec
from yoke_server.ledger.services import Change, assign, record
from yoke_server.record.models import OPEN_STATES, Run
from yoke_server.report.blocks.of_report import check_blocks, first_blocks, title_of
from yoke_server.report.models import Report
from yoke_server.report.tasks import make_pdf


@transaction.atomic
def write_report(actor: Actor, run_id: int) -> Report:
    """The report that was begun with a run, made when there is none yet."""
    require(actor, "write reports")
    runs = Run.objects.select_for_update(of=("self",))  # one of two at once waits
    run = runs.select_related("setup__project", "revision").get(pk=run_id)
    if run.state in OPEN_STATES:
        raise Problem(
            409,
            f"{run.name} is still being recorded.",
            code=ProblemType.BEING_RECORDED,
            hint="Stop it first.",
        )
    if found := run.reports.order_by("pk").first():
        return found
    add_suggested(run.setup_id)  # where nothing was derived yet
    report = Report.objects.create(
        project=run.setup.project,
        run=run,
        number=f"R{run.setup_id:02d}-{run.number:03d}",
        title=title_of(run),
        blocks=first_blocks(run),
    )
    record(actor, f"Began report {report.number}")
    notify(NEWS, kind="report", setup=run.setup_id)
    return report


@transaction.atomic
def change_report(actor: Actor, report_id: int, **changes: Any) -> Report:
    """Change fields of a report, or which blocks it has in which order."""
    require(actor, "write reports")
    report = Report.objects.select_for_update().get(pk=report_id)
    changes = {k: v for k, v in changes.items() if getattr(report, k) != v}
    if not changes:
        return report
    if "blocks" in changes:
        check_blocks(report.project_id, changes["blocks"])
    before = {k: plain_spec(v) for k, v in assign(report, changes).items()}
    report.save()
    after = {k: plain_spec(v) for k, v in changes.items()}
    change = Change("report", report.pk, before, after)
    record(actor, f"Changed report {report.number}", changes=[change])
    notify(NEWS, kind="report", setup=report.run.setup_id)
    return report


def order_pdf(actor: Actor, report_id: int) -> int:
    """Have the worker make the PDF; the number of its task."""
    require(actor, "write reports")
    report = Report.objects.only("pk").get(pk=report_id)
    return order(make_pdf, f"report {report.pk}", actor.user.pk, report_id=report.pk)
