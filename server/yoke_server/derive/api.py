from typing import Annotated, Any

from django.http import HttpRequest, HttpResponse
from ninja import Router
from pydantic import Field

from yoke_server.accounts.actor import Actor
from yoke_server.common.columns import described_as
from yoke_server.common.fields import Id
from yoke_server.common.problems import Problem
from yoke_server.derive import schemas, services
from yoke_server.record.models import OPEN_STATES, Run

router = Router(tags=["derive"])

Pixels = Annotated[int, Field(ge=50, le=services.MOST_PIXELS)]


def closed_run(run_id: int) -> Run:
    run = Run.objects.select_related("revision").get(pk=run_id)
    if run.state in OPEN_STATES:
        raise Problem(409, f"{run.name} is still being recorded.", hint="Stop it first.")
    return run


def tension_out(run: Run) -> dict[str, Any]:
    recipe, kept = services.recipe_of(run), services.derivation_of(run)
    return {
        "run": run.pk,
        "recipe": recipe,
        "stale": kept is None or kept.digest != services.digest_of(run, recipe),
        "problem": kept.problem if kept else None,
        "result": kept.values if kept else None,
        "computed_at": kept.computed_at if kept else None,
    }


@router.get("/runs/{run_id}/tension", response=schemas.TensionState)
def get_tension(request: HttpRequest, run_id: Id) -> dict[str, Any]:
    """The recipe in force and the results that the worker last computed of the run."""
    return tension_out(closed_run(run_id))


@router.patch("/runs/{run_id}/tension", response=schemas.TensionState)
def change_recipe(request: HttpRequest, run_id: Id, body: schemas.RecipeChange) -> dict[str, Any]:
    """Move the fit range or the offset; results follow when the worker has computed them."""
    run = closed_run(run_id)
    services.change_recipe(Actor.of(request), run, **body.given())
    return tension_out(run)


@router.get("/runs/{run_id}/tension/curve", openapi_extra=described_as("application/octet-stream"))
def get_curve(
    request: HttpRequest, run_id: Id, width: Pixels = 600, height: Pixels = 400
) -> HttpResponse:
    """The curve as plots of a size show it: uint32 length, JSON header, then float32.

    The header has the number of points of the whole curve and of its elastic part; then come
    strains (m/m, toe taken off) and stresses (Pa) of the whole, and the same of the part.
    """
    from yoke_server.derive.views import encoded_curve

    run = closed_run(run_id)
    kept = services.derivation_of(run)
    if kept is None or kept.values is None:
        raise Problem(404, "This curve is not computed yet.", hint="Wait a moment.")
    content = encoded_curve(kept, services.recipe_of(run).offset, width, height)
    return HttpResponse(content, content_type="application/octet-stream")
