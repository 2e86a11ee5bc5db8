"""Making and changing reports."""

from typing import Any

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.notify import NEWS, notify
from yoke_server.common.problems import Problem
from yoke_server.ledger.services import Change, assign, record
from yoke_server.record.models import OPEN_STATES, Run
from yoke_server.record.queries import specimen_of
from yoke_server.report.models import Report
from yoke_server.report.tasks import make_pdf


@transaction.atomic
def write_report(actor: Actor, run_id: int) -> Report:
    """The run's report, made when there is none yet."""
    require(actor, "write reports")
    run = Run.objects.select_related("setup__project", "revision").get(pk=run_id)
    if run.state in OPEN_STATES:
        raise Problem(409, f"{run.name} is still being recorded.", hint="Stop it first.")
    report, fresh = Report.objects.get_or_create(
        run=run,
        defaults={
            "number": f"R{run.setup_id:02d}-{run.number:03d}",
            "title": f"Tension test of {specimen_of(run)['specimen']}",
        },
    )
    if fresh:
        record(actor, f"Began report {report.number}")
        notify(NEWS, kind="report", setup=run.setup_id)
    return report


@transaction.atomic
def change_report(actor: Actor, report_id: int, **changes: Any) -> Report:
    require(actor, "write reports")
    report = Report.objects.select_for_update().get(pk=report_id)
    changes = {k: v for k, v in changes.items() if getattr(report, k) != v}
    if not changes:
        return report
    before = assign(report, changes)
    report.save()
    change = Change("report", report.pk, before, changes)
    record(actor, f"Changed report {report.number}", changes=[change])
    return report


def order_pdf(actor: Actor, report_id: int) -> int:
    """Have the worker make the PDF; the number of its task."""
    require(actor, "write reports")
    with transaction.atomic():
        report = Report.objects.get(pk=report_id)
        return int(make_pdf.defer(report_id=report.pk))
