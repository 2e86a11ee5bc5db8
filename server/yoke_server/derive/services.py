"""Recipes as people add, change and remove them; the worker computes what follows."""

from typing import Any

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.derive.inputs import setup_of
from yoke_server.derive.kinds import result_kind
from yoke_server.derive.models import Recipe
from yoke_server.derive.tasks import order_results
from yoke_server.ledger.services import Change, record
from yoke_server.record.models import Run
from yoke_server.setups.document import FrozenSetup
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import Setup

MAX_RECIPES = 50  # of a setup


def _check(parameters: Any, setup: FrozenSetup) -> None:
    result_kind(parameters).check(parameters, setup)


@transaction.atomic
def add_recipe(actor: Actor, setup_id: int, parameters: Any) -> Recipe:
    """Have one thing more derived of a setup's runs."""
    require(actor, "change recipes")
    setup = Setup.objects.select_for_update(of=("self",)).get(pk=setup_id)
    if setup.recipes.count() >= MAX_RECIPES:
        raise Problem(
            409,
            f"This setup has {MAX_RECIPES} recipes already.",
            code=ProblemType.LIMIT_REACHED,
            hint="Take one away first.",
        )
    _check(parameters, freeze(setup))
    recipe = Recipe.objects.create(setup=setup, parameters=parameters)
    record(actor, f"Added a recipe for {parameters.words}")
    notify(NEWS, kind="recipe", setup=setup_id)
    order_results(setup_id)
    return recipe


@transaction.atomic
def change_recipe(
    actor: Actor, recipe_id: int, parameters: Any, run_id: int | None = None
) -> Recipe:
    """Change a recipe; its results are computed anew by the worker, ``run_id``'s first."""
    require(actor, "change recipes")
    recipe = Recipe.objects.select_for_update().get(pk=recipe_id)
    if parameters.kind != recipe.kind:
        raise Problem(
            422,
            f"This recipe is one for {recipe.parameters.words}.",
            field="parameters",
            hint="Add another recipe instead.",
        )
    runs = Run.objects.select_related("revision").filter(setup=recipe.setup_id)
    run = runs.filter(pk=run_id).first() if run_id else None
    _check(parameters, setup_of(run) if run else freeze(recipe.setup))
    if parameters != recipe.parameters:
        if run:
            _precheck(recipe, run, parameters)
        before = recipe.parameters.model_dump(mode="json")
        recipe.parameters, recipe.version = parameters, recipe.version + 1
        recipe.save()
        change = Change("recipe", recipe.pk, before, parameters.model_dump(mode="json"))
        record(actor, f"Changed the recipe for {parameters.words}", changes=[change])
        notify(NEWS, kind="recipe", setup=recipe.setup_id)
        order_results(recipe.setup_id, run_id)
    return recipe


def _precheck(recipe: Recipe, run: Run, parameters: Any) -> None:
    import numpy as np

    kept = run.derivations.filter(recipe=recipe).prefetch_related("arrays").first()
    if kept and kept.details:
        columns = {a.name: np.frombuffer(a.data, "<f4") for a in kept.arrays.all()}
        result_kind(recipe.parameters).precheck(columns, kept.details, parameters)


@transaction.atomic
def remove_recipe(actor: Actor, recipe_id: int) -> None:
    """Take a recipe away, with its results."""
    require(actor, "change recipes")
    recipe = Recipe.objects.select_for_update().get(pk=recipe_id)
    record(actor, f"Took away the recipe for {recipe.parameters.words}")
    notify(NEWS, kind="recipe", setup=recipe.setup_id)
    recipe.delete()
