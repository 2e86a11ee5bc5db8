"""What people ask of a file that is here."""

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.common.tasks.worker import order
from yoke_server.exchange.importing.choices import Choices
from yoke_server.exchange.importing.preview import ImportPreview, preview_of
from yoke_server.exchange.importing.storage import own
from yoke_server.exchange.models import FileState, ImportedFile
from yoke_server.exchange.tasks import import_file


def preview(actor: Actor, key: str, chosen: Choices) -> ImportPreview:
    return preview_of(own(actor, key), chosen)


def order_run(actor: Actor, key: str, chosen: Choices) -> ImportedFile:
    """Have the worker make a run of a file; refused at once where its preview has a problem."""
    found = preview_of(own(actor, key), chosen)
    if found.problem:
        raise Problem(422, found.problem, hint="Change what the file is taken for.")
    with transaction.atomic():
        file = ImportedFile.objects.select_for_update().get(pk=key)
        if file.state != FileState.HERE:
            raise Problem(
                409,
                f"{file.name} is {file.state} already.",
                code=ProblemType.OUT_OF_ORDER,
                hint="Wait for it.",
            )
        file.state, file.problem = FileState.READING, ""
        file.choices = found.choices.model_dump(mode="json")
        file.save(update_fields=["state", "problem", "choices"])
        order(import_file, f"run of {key}", actor.user.pk, key=key)
    return file


def drop(actor: Actor, key: str) -> None:
    """Leave a file; one of which a run is being made stays until that is done."""
    file = own(actor, key)
    if file.state == FileState.READING:
        raise Problem(
            409,
            f"A run is being made of {file.name}.",
            code=ProblemType.OUT_OF_ORDER,
            hint="Wait for it.",
        )
    file.delete()


def preview_out(found: ImportPreview) -> dict[str, object]:
    shape = found.shape
    return {
        "choices": found.choices.model_dump(),
        "separator_doubt": "" if found.chosen else shape.doubt,
        "names_line": shape.names_line, "units_line": shape.units_line,
        "first_line": shape.first_line, "encoding": found.encoding,
        "lines": [{"line": n, "text": text} for n, text in found.lines],
        "columns": [
            {
                "place": c.guess.choice.place, "heading": found.names[c.guess.choice.place],
                "role": c.guess.role, "unit_found": c.guess.unit_found, "reason": c.guess.reason,
                "doubtful": c.guess.doubtful, "low": c.low, "high": c.high,
            }
            for c in found.columns
        ],
        "doubts": found.doubts.first, "doubt_count": found.doubts.count,
        "rows": found.rows, "whole": found.whole, "time_reason": found.time_reason,
        "time_doubtful": found.time_doubtful, "compared_with": found.compared_with,
        "rate_hz": found.rate_hz, "duration_s": found.duration_s, "gaps": found.gaps,
        "problem": found.problem, "problem_line": found.problem_line,
    }  # fmt: skip
