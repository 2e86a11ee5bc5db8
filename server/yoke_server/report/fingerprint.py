"""The fingerprint of everything that a report's PDF shows."""

import hashlib
import json
from typing import Any

from yoke_server.derive.computing import fingerprint_of, inputs_of
from yoke_server.derive.models import Recipe
from yoke_server.kinds.spec import plain_spec
from yoke_server.record.models import Run
from yoke_server.record.queries import specimen_of
from yoke_server.record.readings.definitions import readings_of, version_of
from yoke_server.report.models import Report

LAYOUT = 2  # raised when pages of the same contents look different


def fingerprint(report: Report) -> str:
    """Over the report's fields and blocks, and over all that its runs' results come from."""
    project = report.project
    used: list[Any] = [
        LAYOUT,
        report.number,
        report.revision,
        report.title,
        report.remarks,
        project.name,
        project.customer,
        project.article,
        project.standard,
        plain_spec(report.blocks),
    ]
    shown = [pair for b in report.blocks for pair in sorted(b.derived)]
    recipes = Recipe.objects.in_bulk({recipe for _, recipe in shown})
    ids = {run for b in report.blocks for run in b.runs}
    runs = (
        Run.objects.select_related("revision", "setup").prefetch_related("corrections").in_bulk(ids)
    )
    for run_id in sorted(runs):
        run = runs[run_id]
        used += [run.seal, run.name, run.notes, run.revision.fingerprint, specimen_of(run)]
        readings = readings_of(run)
        if changed := readings.definitions(c.key for c in readings.channels):
            used += [changed, version_of(run)]
    for run_id, recipe_id in shown:
        if recipe_id in recipes and run_id in runs:
            used.append(fingerprint_of(inputs_of(runs[run_id], recipes[recipe_id])))
    return hashlib.sha256(json.dumps(used).encode()).hexdigest()
