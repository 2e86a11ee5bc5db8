from typing import Any

from django.http import HttpRequest, HttpResponse
from django.utils.http import content_disposition_header
from django.utils.text import get_valid_filename
from ninja import Router, Status
from procrastinate.contrib.django.models import ProcrastinateJob

from yoke_server.accounts.actor import Actor
from yoke_server.common.http.columns import described_as
from yoke_server.common.http.fields import Id
from yoke_server.common.http.pages import (
    DEFAULT_LIMIT,
    Cursor,
    Limit,
    Page,
    PageOut,
    Search,
    searched,
)
from yoke_server.common.http.problems import Problem
from yoke_server.record.models import Run
from yoke_server.report import schemas, services
from yoke_server.report.blocks.of_report import blocks_of, titles_of
from yoke_server.report.fingerprint import fingerprint
from yoke_server.report.models import Report, ReportPage

router = Router(tags=["report"])

STATES: dict[str, schemas.TaskState] = {"todo": "waiting", "doing": "working", "succeeded": "done"}


def report_out(report: Report) -> schemas.ReportOut:
    names = ("id", "number", "revision", "title", "remarks", "pdf_at", "problem", "blocks")
    return schemas.ReportOut.model_validate(
        {
            **{name: getattr(report, name) for name in names},
            "run": report.run_id,
            "run_name": report.run.name,
            "stale": report.pdf_made_from != fingerprint(report),
            "pages": report.pages.count(),
            "block_titles": titles_of(report.blocks),
        }
    )


@router.get("/setups/{setup_id}/reports", response=PageOut[schemas.ReportOut])
def list_reports(
    request: HttpRequest,
    setup_id: Id,
    search: Search = "",
    before: Cursor = None,
    limit: Limit = DEFAULT_LIMIT,
) -> PageOut[schemas.ReportOut]:
    """Those of its project, the newest first."""
    of_project = Report.objects.filter(project__setups=setup_id)
    found = searched(of_project, ("title", "number", "run__name"), search)
    page = Page(limit, before).of(found.defer("pdf").select_related("run", "project"))
    return page.out([report_out(r) for r in page.rows])


@router.get("/runs/{run_id}/blocks", response=list[schemas.BlockOffer])
def list_blocks(request: HttpRequest, run_id: Id) -> list[schemas.BlockOffer]:
    """What a report can show of a run."""
    blocks = blocks_of(Run.objects.select_related("setup", "revision").get(pk=run_id))
    return [
        schemas.BlockOffer(title=t, block=b) for t, b in zip(titles_of(blocks), blocks, strict=True)
    ]


@router.post("/runs/{run_id}/report", response=schemas.ReportOut)
def write_report(request: HttpRequest, run_id: Id) -> schemas.ReportOut:
    return report_out(services.write_report(Actor.of(request), run_id))


@router.patch("/reports/{report_id}", response=schemas.ReportOut)
def change_report(
    request: HttpRequest, report_id: Id, body: schemas.ReportChange
) -> schemas.ReportOut:
    changes = body.given()
    return report_out(services.change_report(Actor.of(request), report_id, **changes))


@router.post("/reports/{report_id}/pdf", response={202: schemas.TaskOut})
def order_pdf(request: HttpRequest, report_id: Id) -> Status[Any]:
    return Status(202, {"id": services.order_pdf(Actor.of(request), report_id), "state": "waiting"})


@router.get("/tasks/{task_id}", response=schemas.TaskOut)
def get_task(request: HttpRequest, task_id: Id) -> schemas.TaskOut:
    job = ProcrastinateJob.objects.get(pk=task_id)
    return schemas.TaskOut(id=job.pk, state=STATES.get(job.status, "failed"))


@router.get("/reports/{report_id}/file.pdf", openapi_extra=described_as("application/pdf"))
def get_pdf(request: HttpRequest, report_id: Id) -> HttpResponse:
    report = Report.objects.select_related("run").get(pk=report_id)
    if report.pdf is None or report.pdf_at is None:
        raise Problem(404, "This report has no PDF yet.", hint="Make the PDF first.")
    name = f"{report.number}_{report.revision}_{report.pdf_at:%Y-%m-%d_%H%M}"
    disposition = content_disposition_header(True, f"{get_valid_filename(name)}.pdf")
    return HttpResponse(
        bytes(report.pdf),
        content_type="application/pdf",
        headers={"Content-Disposition": disposition},
    )


@router.get("/reports/{report_id}/pages/{number}.png", openapi_extra=described_as("image/png"))
def get_page(request: HttpRequest, report_id: Id, number: Id) -> HttpResponse:
    page = ReportPage.objects.get(report_id=report_id, number=number)
    return HttpResponse(bytes(page.png), content_type="image/png")
