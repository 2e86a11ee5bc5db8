"""The list of projects, with what each of their setups is at."""

from yoke_server.api.schemas import NextAction, ProjectOut, SetupLine
from yoke_server.calibrate.queries import count_to_zero
from yoke_server.common.db.snapshot import read_snapshot
from yoke_server.common.http.pages import Page, PageOut, searched
from yoke_server.derive.queries import results_of_setups
from yoke_server.derive.schemas import LineResultsOut
from yoke_server.record.schemas import LineRunsOut
from yoke_server.record.setup_runs import runs_of_setups
from yoke_server.report.queries import counts_of_projects
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.freezing import (
    frozen_of_setups,
)
from yoke_server.setups.models import Project, Setup

SEARCHED = ("name", "customer", "article", "standard", "setups__name")


def projects(page: Page, *, archived: bool = False, search: str = "") -> PageOut[ProjectOut]:
    """A page of projects, the newest first, with what each of their setups is at."""
    rows = Project.objects.filter(archived_at__isnull=not archived)
    with read_snapshot():
        found = page.of(searched(rows, SEARCHED, search))
        return found.out(_projects(found.rows))


def project_out(project_id: int) -> ProjectOut:
    """One project with what each of its setups is at."""
    with read_snapshot():
        return _projects([Project.objects.get(pk=project_id)])[0]


def _projects(rows: list[Project]) -> list[ProjectOut]:
    of_page = Setup.objects.filter(project__in=[p.pk for p in rows])
    setups = list(of_page.select_related("bench").order_by("pk"))
    lines: dict[int, list[SetupLine]] = {p.pk: [] for p in rows}
    for setup, line in zip(setups, _lines(setups), strict=True):
        lines[setup.project_id].append(line)
    return [
        ProjectOut(
            id=p.pk,
            name=p.name,
            customer=p.customer,
            article=p.article,
            standard=p.standard,
            archived_at=p.archived_at,
            setups=lines[p.pk],
        )
        for p in rows
    ]


def _lines(setups: list[Setup]) -> list[SetupLine]:
    """Each setup's progress, and the action that it waits for: a query for each table."""
    channels = frozen_of_setups([s.pk for s in setups])
    runs, results = runs_of_setups(setups), results_of_setups(setups)
    reports = counts_of_projects({s.project_id for s in setups})
    return [
        _line(
            setup,
            channels[setup.pk],
            runs.get(setup.pk, LineRunsOut()),
            results[setup.pk],
            reports.get(setup.project_id, 0),
        )
        for setup in setups
    ]


def _line(
    setup: Setup,
    channels: list[FrozenChannel],
    runs: LineRunsOut,
    results: LineResultsOut,
    reports: int,
) -> SetupLine:
    to_zero = count_to_zero(channels)
    return SetupLine(
        **dict(runs),
        **dict(results),
        id=setup.pk,
        name=setup.name,
        version=setup.version,
        bench_id=setup.bench_id,
        bench_name=setup.bench.name,
        on_bench=setup.on_bench_id is not None,
        channels=len(channels),
        to_zero=to_zero,
        reports=reports,
        next=_next_action(len(channels), to_zero, runs, results, reports),
    )


def _next_action(
    channels: int, to_zero: int, runs: LineRunsOut, results: LineResultsOut, reports: int
) -> NextAction:
    """Which stage to go to, what to do there, and why."""
    for waits, stage, action, reason in (
        (runs.recording, "record", "Watch the run", "A run is being recorded."),
        (not channels, "wire", "Wire its channels", "No input has a sensor yet."),
        (results.stale, "derive", "Look at the results", "Results are being renewed."),
        (
            to_zero and not runs.runs,
            "calibrate",
            "Zero its channels",
            f"{to_zero} of {channels} channels have no zero.",
        ),
        (not runs.runs, "record", "Record its first run", "All is wired and zeroed."),
        (not reports, "report", "Write its report", "Results are in, no report is begun."),
    ):
        if waits:
            return NextAction(stage=stage, action=action, reason=reason)
    return NextAction(stage="record", action="Record another run", reason="The report is begun.")
