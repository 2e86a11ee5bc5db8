"""Work for the worker process."""

from datetime import UTC, datetime

from django.conf import settings
from django.db import transaction

from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.db.snapshot import read_snapshot
from yoke_server.common.tasks.worker import task
from yoke_server.derive.computing import derive
from yoke_server.record.models import Run
from yoke_server.record.readings.definitions import readings_of
from yoke_server.report.calibration_certificate.services import make_certificate
from yoke_server.report.fingerprint import fingerprint
from yoke_server.report.models import Report, ReportPage
from yoke_server.report.wiring_sheet.services import make_sheet


def say_why(words: str, report_id: int) -> None:
    """The person reads on the report why it was not made."""
    Report.objects.filter(pk=report_id).update(problem=words[:300])
    setup_id = Report.objects.values_list("run__setup_id", flat=True).get(pk=report_id)
    notify(NEWS, kind="report", setup=setup_id)


def make(report_id: int) -> None:
    """Make the PDF and its pages; kept together or not at all.

    The fingerprint is of what was rendered, read from the same state of the database: a
    report changed meanwhile is stale when it is ready.
    """
    from yoke_server.record.readings.build import build_all
    from yoke_server.report.pdf import pages, render

    blocks = Report.objects.get(pk=report_id).blocks
    for run in Run.objects.filter(pk__in={pk for b in blocks for pk in b.runs}):
        build_all(run, readings_of(run))  # what is not computed yet
    for block in blocks:
        for run_id, recipe_id in block.derived:
            derive(run_id, recipe_id)  # where it is stale, or not there yet
    with read_snapshot():
        report = Report.objects.select_related("project", "run__revision").get(pk=report_id)
        made_from = fingerprint(report)
        pdf = render(report)
    pictures = pages(pdf)
    with transaction.atomic():
        Report.objects.filter(pk=report_id).update(
            pdf=pdf, pdf_made_from=made_from, pdf_at=datetime.now(UTC), problem=""
        )
        report.pages.all().delete()
        ReportPage.objects.bulk_create(
            ReportPage(report=report, number=n, png=png) for n, png in enumerate(pictures, start=1)
        )
        notify(NEWS, kind="report", setup=report.run.setup_id)


__all__ = ["make_certificate", "make_pdf", "make_sheet"]  # what the worker looks for here

make_pdf = task(seconds=settings.PDF_SECONDS, failed=say_why)(make)
