"""Blocks of a report together: with which it begins, what each is called, whether they fit."""

from collections.abc import Sequence
from typing import Any

from yoke_server.derive.kinds import result_kind
from yoke_server.derive.models import Recipe
from yoke_server.record.models import Run
from yoke_server.record.queries import document_of
from yoke_server.report.blocks import REPORT_BLOCKS
from yoke_server.report.blocks.base import ReportBlock


def first_blocks(run: Run) -> list[ReportBlock]:
    """The blocks with which a run's report begins."""
    return [block for block in blocks_of(run) if block.is_at_start]


def blocks_of(run: Run) -> list[ReportBlock]:
    """What a report can show of a run, kind by kind; results of a recipe stand together."""
    found = [block for kind in REPORT_BLOCKS for block in kind.offers(run)]
    results = sorted((b for b in found if b.derived), key=lambda b: min(b.derived))
    if not results:
        return found
    first = [bool(b.derived) for b in found].index(True)
    others = [b for b in found if not b.derived]
    return [*others[:first], *results, *others[first:]]


def title_of(run: Run) -> str:
    """What a report on a run is called at first."""
    document = document_of(run)
    specimen = document.specimen.specimen
    titles = (result_kind(r.parameters).report_title(specimen) for r in run.setup.recipes.all())
    return next(filter(None, titles), f"{document.name} test of {specimen}")


def titles_of(blocks: Sequence[Any]) -> list[str]:
    """What each block is, in a line; said where a run or a recipe is gone."""
    wanted = {pk for b in blocks for pk in b.runs}
    runs = dict(Run.objects.filter(pk__in=wanted).values_list("pk", "name"))
    recipes = Recipe.objects.in_bulk({recipe for b in blocks for _, recipe in b.derived})
    return [b.line(runs, recipes) for b in blocks]


def check_blocks(project_id: int, blocks: Sequence[Any]) -> None:
    """Raise a 422 problem naming the block and what it asks for in vain."""
    wanted = {pk for b in blocks for pk in b.runs}
    rows = Run.objects.filter(pk__in=wanted, setup__project_id=project_id)
    runs = {r.pk: r for r in rows.select_related("revision")}
    for place, block in enumerate(blocks):
        block.check(place, runs)
