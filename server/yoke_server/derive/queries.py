"""Reads of recipes and results."""

from django.db.models import Count, Prefetch

from yoke_server.common.db.prepared import ASKED, Prepared, counted
from yoke_server.common.http.columns import pack_bytes
from yoke_server.derive.computing import is_stale
from yoke_server.derive.kinds import offers_of, result_kind
from yoke_server.derive.models import Derivation, Recipe, Result
from yoke_server.derive.schemas import (
    DerivationOut,
    LineResultsOut,
    RecipeOffer,
    RecipeOut,
    SeriesOut,
)
from yoke_server.record.models import OPEN_STATES, Run, RunState
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import Setup


def recipe_out(recipe: Recipe) -> RecipeOut:
    return RecipeOut(
        id=recipe.pk,
        setup=recipe.setup_id,
        version=recipe.version,
        parameters=recipe.parameters,
    )


def recipe_offers(setup: Setup) -> list[RecipeOffer]:
    """What can be derived of runs with a setup as it stands now."""
    return [RecipeOffer(title=o.title, parameters=o.parameters) for o in offers_of(freeze(setup))]


_COMPUTED = Prepared(
    lambda: counted(
        Derivation.objects.filter(run__setup_id=ASKED, details__isnull=False), "run__setup_id"
    )
)


def count_of_setup(setup_id: int) -> int:
    """How many results a setup's runs have."""
    return _COMPUTED.number(setup_id)


def results_of_setups(setups: list[Setup]) -> dict[int, LineResultsOut]:
    """How many results each setup's runs have, and of its newest run how many are stale."""
    computed = dict(
        Derivation.objects.filter(run__setup__in=setups, details__isnull=False)
        .values("run__setup_id")
        .annotate(n=Count("pk"))
        .values_list("run__setup_id", "n")
    )
    fingerprints = Prefetch(
        "derivations", Derivation.objects.only("run_id", "recipe_id", "fingerprint")
    )
    closed = Run.objects.filter(setup__in=setups).exclude(state__in=OPEN_STATES)
    newest = closed.order_by("setup_id", "-number").distinct("setup_id").select_related("revision")
    last = {r.setup_id: r for r in newest.prefetch_related("corrections", fingerprints)}
    recipes: dict[int, list[Recipe]] = {}
    for recipe in Recipe.objects.filter(setup__in=list(last)):
        recipes.setdefault(recipe.setup_id, []).append(recipe)
    return {
        s.pk: LineResultsOut(
            results=computed.get(s.pk, 0),
            stale=_stale(last[s.pk], recipes.get(s.pk, [])) if s.pk in last else 0,
        )
        for s in setups
    }


def _stale(run: Run, recipes: list[Recipe]) -> int:
    kept = {d.recipe_id: d for d in run.derivations.all()}
    return sum(is_stale(kept.get(r.pk), run, r) for r in recipes)


def derivations_of(run: Run) -> list[DerivationOut]:
    """What each of the setup's recipes gives of a run, as far as it is computed."""
    kept = {d.recipe_id: d for d in run.derivations.prefetch_related("results")}
    recipes = Recipe.objects.filter(setup_id=run.setup_id)
    return [_out(run, recipe, kept.get(recipe.pk)) for recipe in recipes]


def _out(run: Run, recipe: Recipe, kept: Derivation | None) -> DerivationOut:
    return DerivationOut.model_validate(
        {
            "run": run.pk,
            "recipe": recipe_out(recipe),
            "stale": is_stale(kept, run, recipe),
            "problem": kept.problem if kept else None,
            "results": list(kept.results.all()) if kept else [],
            "details": kept.details if kept else None,
            "notes": kept.notes if kept else [],
            "lacks": kept.lacks if kept else [],
            "fingerprint": kept.fingerprint if kept else "",
            "computed_at": kept.computed_at if kept else None,
        }
    )


def packed_arrays(kept: Derivation) -> bytes:
    """A derivation's columns as the web reads them: a header that names them, then float32."""
    rows = list(kept.arrays.all())
    header = [{"name": r.name, "unit": r.unit, "count": len(r.data) // 4} for r in rows]
    return pack_bytes({"columns": header}, [bytes(r.data) for r in rows])


def series_of(setup_id: int) -> list[SeriesOut]:
    """Statistics of each result over a setup's kept runs.

    Runs that broke off stay out of it, and those that were imported: nobody measured them here.
    """
    from yoke_core.statistics import series

    rows = (
        Result.objects.filter(
            derivation__recipe__setup_id=setup_id,
            derivation__run__state=RunState.KEPT,
            derivation__run__document__isnull=True,
        )
        .order_by("derivation__recipe_id", "position")
        .values_list("derivation__recipe_id", "symbol", "value")
    )
    values: dict[tuple[int, str], list[float | None]] = {}
    for recipe, symbol, value in rows.iterator():  # of thousands of runs
        values.setdefault((recipe, symbol), []).append(value)
    found = [(key, series(v)) for key, v in values.items()]
    return [
        SeriesOut(
            recipe=recipe,
            symbol=symbol,
            count=s.count,
            mean=s.mean,
            deviation=s.deviation,
            lowest=s.lowest,
            highest=s.highest,
        )
        for (recipe, symbol), s in found
        if s is not None
    ]


def figure_of(kept: Derivation) -> str:
    """A derivation's figure as SVG, drawn from the numbers that the screen shows."""
    import numpy as np

    columns = {a.name: np.frombuffer(a.data, "<f4").astype(float) for a in kept.arrays.all()}
    parameters = kept.recipe.parameters
    return result_kind(parameters).figure(columns, kept.details, parameters)
