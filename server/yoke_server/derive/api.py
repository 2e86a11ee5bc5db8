from typing import TYPE_CHECKING, Annotated, Any

from django.http import HttpRequest
from ninja import Router
from pydantic import Field

from yoke_server.accounts.actor import Actor
from yoke_server.common.fields import Id
from yoke_server.derive import schemas, services
from yoke_server.record.models import Run

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

router = Router(tags=["derive"])

Pixels = Annotated[int, Field(ge=50, le=4000)]

NEAR_OFFSETS = 5  # the detailed plot reaches this many offsets far


@router.get("/runs/{run_id}/tension", response=schemas.CurveOut)
def get_tension(
    request: HttpRequest,
    run_id: Id,
    width: Pixels = 600,
    height: Pixels = 400,
) -> dict[str, Any]:
    """Compute the run's curve and results with the recipe in force, and keep the results."""
    run = Run.objects.get(pk=run_id)
    recipe = services.recipe_of(run)
    curve = services.curve_of(run, services.core_recipe(recipe))
    services.keep(run, recipe, curve.result)
    return curve_out(run, recipe, curve, width, height)


@router.patch("/runs/{run_id}/tension", response=schemas.CurveOut)
def change_recipe(
    request: HttpRequest,
    run_id: Id,
    body: schemas.RecipeChange,
    width: Pixels = 600,
    height: Pixels = 400,
) -> dict[str, Any]:
    """Move the fit range or the offset; refused, and nothing stored, if no result comes of it."""
    run = Run.objects.get(pk=run_id)
    recipe, curve = services.renew(Actor.of(request), run, **body.given())
    return curve_out(run, recipe, curve, width, height)


def curve_out(
    run: Run, recipe: Any, curve: services.Curve, width: int, height: int
) -> dict[str, Any]:
    strain = curve.strain - curve.result.modulus.origin
    near_end = NEAR_OFFSETS * recipe.offset
    beyond = (strain > near_end).nonzero()[0]
    end = int(beyond[0]) + 1 if beyond.size else len(strain)
    fracture = curve.result.fracture
    last = len(strain) if fracture is None else fracture.index + 1
    whole = _thin(strain[:last], curve.stress[:last], width, height)
    near = _thin(strain[:end], curve.stress[:end], width, height)
    return {
        "run": run.pk,
        "strain": whole[0], "stress": whole[1], "near_strain": near[0], "near_stress": near[1],
        "recipe": recipe, "result": curve.result,
    }  # fmt: skip


def _thin(
    x: "NDArray[np.float64]", y: "NDArray[np.float64]", width: int, height: int
) -> tuple[list[float], list[float]]:
    import numpy as np
    from yoke_core.thin import thin_curve

    finite = np.isfinite(x) & np.isfinite(y)
    x, y = x[finite], y[finite]
    keep = thin_curve(x, y, width, height)
    return x[keep].tolist(), y[keep].tolist()
