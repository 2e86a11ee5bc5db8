"""Work for the worker process."""

from datetime import UTC, datetime

from django.db import transaction
from procrastinate import RetryStrategy
from procrastinate.contrib.django import app

from yoke_server.config.notify import NEWS, notify
from yoke_server.report.models import Report, ReportPage


@app.task(retry=RetryStrategy(max_attempts=2))
def make_pdf(report_id: int, made_from: str) -> None:
    """Make the PDF and its pages; kept together or not at all."""
    from yoke_server.report.pdf import pages, render

    report = Report.objects.select_related("run__setup__project", "run__operator").get(pk=report_id)
    pdf = render(report)
    pictures = pages(pdf)
    with transaction.atomic():
        Report.objects.filter(pk=report_id).update(
            pdf=pdf, pdf_made_from=made_from, pdf_at=datetime.now(UTC)
        )
        report.pages.all().delete()
        ReportPage.objects.bulk_create(
            ReportPage(report=report, number=n, png=png) for n, png in enumerate(pictures, start=1)
        )
        notify(NEWS, kind="report", setup=report.run.setup_id)
