"""What a correction of runs would make stale, named before it is made."""

from django.http import HttpRequest
from ninja import Router

from yoke_server.api.schemas import (
    CorrectionEffects,
    CorrectionProposal,
    StaleReportOut,
    StaleResultOut,
)
from yoke_server.common.http.fields import Id
from yoke_server.derive.computing import fingerprint_of, inputs_of
from yoke_server.derive.kinds import title_of
from yoke_server.derive.models import Derivation
from yoke_server.kinds.corrections.base import RunCorrection
from yoke_server.record.corrections import proposed
from yoke_server.record.models import Run
from yoke_server.record.readings.definitions import setup_of
from yoke_server.report.models import Report

router = Router(tags=["record"])


@router.post("/setups/{setup_id}/corrections/effects", response=CorrectionEffects)
def correction_effects(
    request: HttpRequest, setup_id: Id, body: CorrectionProposal
) -> CorrectionEffects:
    """Which results and reports a correction would make stale; nothing is changed."""
    rows = Run.objects.filter(setup_id=setup_id, pk__in=body.runs)
    runs = list(rows.select_related("revision", "setup").prefetch_related("corrections"))
    stale, untouched = [], 0
    for run in runs:
        found = _stale_of(run, body.correction)
        stale += [result for result in found if result]
        untouched += found.count(None)
    return CorrectionEffects(results=stale, untouched=untouched, reports=_reports(setup_id, runs))


def _stale_of(run: Run, correction: RunCorrection) -> list[StaleResultOut | None]:
    """The results of a run; None for one that stays as it is."""
    readings, setup = proposed(run, correction), setup_of(run)
    kept = run.derivations.select_related("recipe").prefetch_related("results")
    found: list[StaleResultOut | None] = []
    for derivation in kept:
        after = fingerprint_of(inputs_of(run, derivation.recipe, readings))
        before = fingerprint_of(inputs_of(run, derivation.recipe))
        title = title_of(derivation.recipe.parameters, setup)
        found.append(_result(run, derivation, title) if after != before else None)
    return found


def _result(run: Run, derivation: Derivation, title: str) -> StaleResultOut:
    first = next(iter(derivation.results.all()), None)
    return StaleResultOut(
        run=run.pk,
        run_name=run.name,
        recipe=derivation.recipe_id,
        title=title,
        symbol=first.symbol if first else "",
        value=first.value if first else None,
        unit=first.unit if first else "",
        decimals=first.decimals if first else 0,
    )


def _reports(setup_id: int, runs: list[Run]) -> list[StaleReportOut]:
    """Reports that show something of these runs."""
    wanted = {run.pk for run in runs}
    reports = Report.objects.filter(project__setups=setup_id).defer("pdf")
    return [
        StaleReportOut(id=r.pk, number=r.number, title=r.title)
        for r in reports
        if any(b.runs & wanted for b in r.blocks)
    ]
