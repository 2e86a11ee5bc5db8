from typing import Any

from django.http import HttpRequest, HttpResponse
from ninja import Router, Status

from yoke_server.accounts.actor import Actor
from yoke_server.common.http.columns import described_as
from yoke_server.common.http.fields import Id
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.derive import queries, schemas, services
from yoke_server.derive.models import Derivation, Recipe
from yoke_server.record.models import OPEN_STATES, Run
from yoke_server.setups.models import Setup

router = Router(tags=["derive"])


def closed_run(run_id: int) -> Run:
    runs = Run.objects.select_related("revision").prefetch_related("corrections")
    run = runs.get(pk=run_id)
    if run.state in OPEN_STATES:
        raise Problem(
            409,
            f"{run.name} is still being recorded.",
            code=ProblemType.BEING_RECORDED,
            hint="Stop it first.",
        )
    return run


@router.get("/setups/{setup_id}/recipes", response=list[schemas.RecipeOut])
def list_recipes(request: HttpRequest, setup_id: Id) -> list[schemas.RecipeOut]:
    return [queries.recipe_out(r) for r in Setup.objects.get(pk=setup_id).recipes.all()]


@router.get("/setups/{setup_id}/recipe-offers", response=list[schemas.RecipeOffer])
def list_recipe_offers(request: HttpRequest, setup_id: Id) -> list[schemas.RecipeOffer]:
    """What can be derived of runs with the setup's channels."""
    return queries.recipe_offers(Setup.objects.select_related("bench", "project").get(pk=setup_id))


@router.post("/setups/{setup_id}/recipes", response={201: schemas.RecipeOut})
def add_recipe(request: HttpRequest, setup_id: Id, body: schemas.RecipeIn) -> Status[Any]:
    recipe = services.add_recipe(Actor.of(request), setup_id, body.parameters)
    return Status(201, queries.recipe_out(recipe))


@router.patch("/recipes/{recipe_id}", response=schemas.RecipeOut)
def change_recipe(
    request: HttpRequest, recipe_id: Id, body: schemas.RecipeChange
) -> schemas.RecipeOut:
    """Change its parameters; results follow when the worker has computed them."""
    recipe = services.change_recipe(Actor.of(request), recipe_id, body.parameters, body.run)
    return queries.recipe_out(recipe)


@router.delete("/recipes/{recipe_id}", response={204: None})
def remove_recipe(request: HttpRequest, recipe_id: Id) -> Status[Any]:
    services.remove_recipe(Actor.of(request), recipe_id)
    return Status(204, None)


@router.get("/runs/{run_id}/derivations", response=list[schemas.DerivationOut])
def list_derivations(request: HttpRequest, run_id: Id) -> list[schemas.DerivationOut]:
    """What the worker last computed of the run, by recipe."""
    return queries.derivations_of(closed_run(run_id))


@router.get(
    "/runs/{run_id}/derivations/{recipe_id}/arrays",
    openapi_extra=described_as("application/octet-stream"),
)
def get_arrays(request: HttpRequest, run_id: Id, recipe_id: Id) -> HttpResponse:
    """The columns of a derivation: uint32 length, JSON header, then float32 in SI.

    The header lists name, unit and count of each column.
    """
    kept = Derivation.objects.filter(run=closed_run(run_id), recipe_id=recipe_id).first()
    if kept is None or kept.details is None:
        Recipe.objects.get(pk=recipe_id)
        raise Problem(404, "This is not computed yet.", hint="Wait a moment.")
    return HttpResponse(queries.packed_arrays(kept), content_type="application/octet-stream")


@router.get("/setups/{setup_id}/series", response=list[schemas.SeriesOut])
def get_series(request: HttpRequest, setup_id: Id) -> list[schemas.SeriesOut]:
    """Statistics of results over the setup's kept runs."""
    Setup.objects.get(pk=setup_id)
    return queries.series_of(setup_id)
