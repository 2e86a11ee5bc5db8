"""Results as the worker computes them, kept with what they were computed from."""

import hashlib
import json
import logging
from dataclasses import asdict
from typing import Any

from django.db import Error, transaction
from yoke_core.errors import CoreError

from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.db.snapshot import read_snapshot
from yoke_server.common.http.problems import Problem
from yoke_server.derive.kinds import offers_of, result_kind
from yoke_server.derive.kinds.base import Computed, ResultKind
from yoke_server.derive.models import Derivation, Recipe, Result, ResultArray
from yoke_server.derive.uncertainty import ResultUncertainty, Uncertainties, uncertainties
from yoke_server.kinds.spec import Spec
from yoke_server.record.models import OPEN_STATES, Run
from yoke_server.record.readings.definitions import RunReadings, readings_of
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import Setup

log = logging.getLogger(__name__)


IN_THE_LOG = "Look into the worker's log."


def inputs_of(run: Run, recipe: Recipe, readings: RunReadings | None = None) -> dict[str, object]:
    """Everything that a run's results by a recipe are computed from.

    readings : how the run is read, if not as it is now
    """
    kind, readings = result_kind(recipe.parameters), readings or readings_of(run)
    changed = readings.definitions(kind.channels(recipe.parameters, readings.setup))
    return {
        "engine": kind.engine,
        **kind.sources(run),
        "parameters": recipe.parameters.model_dump(mode="json"),
        **({"readings": changed} if changed else {}),
    }


def fingerprint_of(inputs: dict[str, object]) -> str:
    return hashlib.sha256(json.dumps(inputs, sort_keys=True).encode()).hexdigest()


def is_stale(kept: Derivation | None, run: Run, recipe: Recipe) -> bool:
    """Whether the stored result was computed from other inputs than those in force."""
    return kept is None or kept.fingerprint != fingerprint_of(inputs_of(run, recipe))


def derive_stale(setup_id: int, first: int | None = None) -> None:
    """Compute all results of a setup that are stale or not there yet, one run's before all."""
    add_suggested(setup_id)
    runs = Run.objects.filter(setup_id=setup_id).exclude(state__in=OPEN_STATES)
    found = list(runs.order_by("-number").values_list("pk", flat=True))
    recipes = list(Recipe.objects.filter(setup_id=setup_id).values_list("pk", flat=True))
    for run_id in sorted(found, key=lambda pk: pk != first):
        for recipe_id in recipes:
            derive(run_id, recipe_id)


@transaction.atomic
def add_suggested(setup_id: int) -> None:
    """Give a setup that has none the recipes that its channels are made for."""
    setup = Setup.objects.select_for_update(of=("self",)).get(pk=setup_id)
    if setup.recipes.exists():
        return
    frozen = freeze(setup)
    for offer in offers_of(frozen):
        if offer.suggested:
            Recipe.objects.create(setup=setup, parameters=offer.parameters)


def derive(run_id: int, recipe_id: int) -> None:
    """Compute and keep a run's results, unless those kept are of the same inputs."""
    _compute_channels(run_id, recipe_id)
    with read_snapshot():
        run = Run.objects.select_related("revision", "setup").get(pk=run_id)
        recipe = Recipe.objects.filter(pk=recipe_id).first()
        if recipe is None:
            return
        inputs = inputs_of(run, recipe)
        kept = run.derivations.filter(recipe=recipe).first()
        if kept and kept.fingerprint == fingerprint_of(inputs):
            return
        found = _compute(result_kind(recipe.parameters), run, recipe.parameters)
    _keep(run, recipe, inputs, found)


def _compute_channels(run_id: int, recipe_id: int) -> None:
    """Have the computed channels stored that a stale result needs."""
    from yoke_server.record.readings.build import build_all

    run = Run.objects.select_related("revision", "setup").get(pk=run_id)
    recipe = Recipe.objects.filter(pk=recipe_id).first()
    if recipe is None or not is_stale(run.derivations.filter(recipe=recipe).first(), run, recipe):
        return
    readings, kind = readings_of(run), result_kind(recipe.parameters)
    keys = kind.channels(recipe.parameters, readings.setup)
    try:
        build_all(run, readings, [key for key in keys if readings.channel(key)])
    except (Problem, CoreError):
        log.info("Computed channels of %s", run.name, exc_info=True)  # the result says why


Found = tuple[Computed, Uncertainties]


def _compute(kind: ResultKind, run: Run, parameters: Spec) -> Found | dict[str, str]:
    """The computed result with its uncertainties, or the problem that prevents it."""
    try:
        found = kind.compute(run, parameters)
    except (Problem, CoreError) as error:
        return {"title": str(error), "hint": error.hint}
    except Error:  # the database is away: the whole task is tried again
        raise
    except Exception:  # a fault of ours with this run keeps no other run from its results
        log.exception("Results of run %s", run.pk)
        return {"title": "It could not be computed.", "hint": IN_THE_LOG}
    return found, _uncertainties(kind, run, parameters, found)


def _uncertainties(kind: ResultKind, run: Run, parameters: Spec, found: Computed) -> Uncertainties:
    """Of results that are there; none where they cannot be computed."""
    try:
        return uncertainties(kind, run, parameters, found)
    except Error:
        raise
    except Exception:
        log.exception("Uncertainties of run %s", run.pk)
        return Uncertainties([None] * len(found.values), [f"They failed. {IN_THE_LOG}"])


@transaction.atomic
def _keep(
    run: Run, recipe: Recipe, inputs: dict[str, object], found: Found | dict[str, str]
) -> None:
    """Replace the stored result; a problem leaves the old values."""
    if not Recipe.objects.select_for_update().filter(pk=recipe.pk).exists():
        return  # taken away meanwhile
    fresh = {
        "inputs": inputs,
        "fingerprint": fingerprint_of(inputs),
        "engine": inputs["engine"],
        "recipe_version": recipe.version,
    }
    if isinstance(found, dict):
        run.derivations.update_or_create(recipe=recipe, defaults=fresh | {"problem": found})
    else:
        computed, uncertain = found
        more = {
            "problem": None,
            "details": computed.details.model_dump(mode="json"),
            "notes": computed.notes,
            "lacks": uncertain.lacks,
        }
        kept, _ = run.derivations.update_or_create(recipe=recipe, defaults=fresh | more)
        _keep_rows(kept, computed, uncertain)
    notify(NEWS, kind="result", setup=run.setup_id)


def _keep_rows(kept: Derivation, found: Computed, uncertain: Uncertainties) -> None:
    kept.results.all().delete()
    Result.objects.bulk_create(
        Result(derivation=kept, position=i, **asdict(v), **_columns_of(u))
        for i, (v, u) in enumerate(zip(found.values, uncertain.of_results, strict=True))
    )
    kept.arrays.all().delete()
    ResultArray.objects.bulk_create(
        ResultArray(
            derivation=kept,
            position=i,
            name=c.name,
            unit=c.unit,
            data=c.numbers.astype("<f4").tobytes(),
        )
        for i, c in enumerate(found.columns)
    )


def _columns_of(uncertain: ResultUncertainty | None) -> dict[str, Any]:
    if uncertain is None:
        return {}
    return {
        "expanded": uncertain.expanded,
        "factor": uncertain.factor,
        "budget": uncertain.terms,
    }
