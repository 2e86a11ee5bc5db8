"""Whether blocks name what there is: runs of the report's project, their recipes and channels."""

from collections.abc import Sequence
from typing import Any

from yoke_server.common.http.problems import Problem
from yoke_server.derive.models import Recipe
from yoke_server.record.models import OPEN_STATES, Run
from yoke_server.record.queries import document_of


def check_blocks(project_id: int, blocks: Sequence[Any]) -> None:
    """Raise a 422 problem naming the block and what it asks for in vain."""
    wanted = {b.run for b in blocks if hasattr(b, "run")}
    rows = Run.objects.filter(pk__in=wanted, setup__project_id=project_id)
    runs = {r.pk: r for r in rows.select_related("revision")}
    for i, block in enumerate(blocks):
        if hasattr(block, "run"):
            _check(i, block, runs.get(block.run))


def _check(i: int, block: Any, run: Run | None) -> None:
    if run is None:
        raise _problem(i, "run", "This project has no such run.", "Choose one of its runs.")
    if run.state in OPEN_STATES:
        raise _problem(i, "run", f"{run.name} is still being recorded.", "Stop it first.")
    recipe = getattr(block, "recipe", None)
    if recipe and not Recipe.objects.filter(pk=recipe, setup_id=run.setup_id).exists():
        raise _problem(
            i, "recipe", f"{run.name} has no results by that recipe.", "Choose one of its recipes."
        )
    known = {c.key for c in document_of(run).channels}
    if set(getattr(block, "channels", ())) - known:
        raise _problem(i, "channels", f"{run.name} has no such channel.", "Choose others.")


def _problem(i: int, field: str, title: str, hint: str) -> Problem:
    return Problem(422, title, field=f"blocks.{i}.{field}", hint=hint)
