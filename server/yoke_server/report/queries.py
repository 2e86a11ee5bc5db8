"""Counting reports."""

from django.db.models import Count

from yoke_server.common.db.prepared import ASKED, Prepared, counted
from yoke_server.report.models import Report

_WRITTEN = Prepared(lambda: counted(Report.objects.filter(project_id=ASKED), "project_id"))


def count_of_project(project_id: int) -> int:
    """How many reports a project has."""
    return _WRITTEN.number(project_id)


def counts_of_projects(projects: set[int]) -> dict[int, int]:
    """How many reports each project has that has any."""
    rows = Report.objects.filter(project__in=projects).values("project_id")
    return dict(rows.annotate(n=Count("pk")).values_list("project_id", "n"))
