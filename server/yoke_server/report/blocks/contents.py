"""What stands in each kind of block, as text ready to print; every number with its unit."""

from collections.abc import Callable
from typing import Any

from yoke_server.common.http.problems import Problem
from yoke_server.derive.models import Derivation, Recipe
from yoke_server.record.models import Run
from yoke_server.record.queries import document_of, piece_of, specimen_of
from yoke_server.record.streams import streams_of
from yoke_server.report.words import channel_rows, moment, result_rows

Context = dict[str, Any]


def _run(run_id: int) -> Run:
    return Run.objects.select_related("setup__project", "operator", "revision").get(pk=run_id)


def _paragraph(block: Any) -> Context:
    return {"text": block.text}


def _run_facts(block: Any) -> Context:
    run = _run(block.run)
    operator, setup = run.operator, document_of(run)
    return {
        "run": run,
        "project": run.setup.project,
        "specimen": specimen_of(run)["specimen"],
        "operator": (operator.get_full_name() or operator.username) if operator else "–",
        "started": moment(run.started_at),
        "piece": piece_of(run).sentence,
        "motion": setup.motion.sentence,
    }


def derivation_of(block: Any) -> Derivation:
    """What the worker computed; raises a 409 problem where there is nothing to show."""
    kept = Derivation.objects.filter(run=block.run, recipe=block.recipe)
    found = kept.select_related("run", "recipe").prefetch_related("results", "arrays").first()
    if found is None or found.problem or found.details is None:
        name, why = Run.objects.get(pk=block.run).name, found.problem if found else None
        raise Problem(
            409, f"{name} has no results to show: {why['title'] if why else 'there are none yet.'}",
            hint="Look into Derive, or take the block out.",
        )  # fmt: skip
    return found


def _result_table(block: Any) -> Context:
    found = derivation_of(block)
    rows = list(found.results.all())
    shared = {r.note for r in rows}
    note = shared.pop() if len(shared) == 1 else ""
    return {
        "title": _title(found.recipe, found.run),
        "results": result_rows(rows),
        "notes": [n for n in (note, *found.notes) if n],
    }


def _title(recipe: Recipe, run: Run) -> str:
    """What is derived, of which run."""
    parameters = recipe.parameters
    names = {c.key: c.name for c in document_of(run).channels}
    of = getattr(parameters, "name", "") or names.get(getattr(parameters, "channel", ""), "")
    return f"{parameters.words.capitalize()} {of}".strip() + f", {run.name}"


def _result_picture(block: Any) -> Context:
    from yoke_server.report.figures.registry import picture_of

    return {"figure": picture_of(derivation_of(block))}


def _course(block: Any) -> Context:
    from yoke_server.report.figures.course import course_svg

    run = _run(block.run)
    return {"run": run, "figure": course_svg(run, block.channels)}


def _channel_table(block: Any) -> Context:
    run = _run(block.run)
    return {"run": run, "channels": channel_rows(document_of(run))}


def _raw_data(block: Any) -> Context:
    run = _run(block.run)
    streams = streams_of(run.pk)
    return {
        "run": run,
        "setup": document_of(run),
        "version": run.revision.number,
        "streams": [f"{s.device}: {s.samples} samples at {s.rate_hz:g} Hz" for s in streams],
        "gaps": [f"{s.device} from {a:.2f} to {b:.2f} s" for s in streams for a, b in s.gaps],
    }


CONTENTS: dict[str, Callable[[Any], Context]] = {
    "paragraph": _paragraph,
    "run_facts": _run_facts,
    "result_table": _result_table,
    "result_picture": _result_picture,
    "course": _course,
    "channel_table": _channel_table,
    "raw_data": _raw_data,
}


def contents_of(block: Any) -> Context:
    """The context of the block's template."""
    return {"template": f"report/blocks/{block.kind}.html", **CONTENTS[block.kind](block)}
