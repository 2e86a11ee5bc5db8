"""Results of runs: computed by the worker, kept with what they were computed from."""

import hashlib
import json
import logging
from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from django.db import Error, transaction
from yoke_core.errors import CoreError

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.notify import NEWS, notify
from yoke_server.common.one_state import one_state
from yoke_server.common.problems import Problem
from yoke_server.derive.models import Derivation, TensionRecipeRow
from yoke_server.ledger.services import Change, assign, record
from yoke_server.record.models import OPEN_STATES, Run
from yoke_server.record.queries import specimen_of

if TYPE_CHECKING:
    from yoke_core.tension.results import Array, TensionRecipe

log = logging.getLogger(__name__)

IN_THE_LOG = "Look into the worker's log."
TENSION = "tension"
ENGINE = 1  # raised when the core computes otherwise than before
MOST_PIXELS = 4000  # of the largest plot; what is kept of a curve is enough for it


def recipe_of(run: Run) -> TensionRecipeRow:
    """The setup's recipe, or the one that it begins with."""
    found = TensionRecipeRow.objects.filter(setup_id=run.setup_id).first()
    return found or TensionRecipeRow(setup_id=run.setup_id)


def core_recipe(row: TensionRecipeRow) -> "TensionRecipe":
    """The recipe for the core; raises `TensionError` naming the field at fault."""
    from yoke_core.tension.results import TensionRecipe

    return TensionRecipe(row.fit_lower_pa, row.fit_upper_pa, row.offset)


def digest_of(run: Run, recipe: TensionRecipeRow) -> str:
    """Changes when anything changes that a run's results are computed from."""
    used = [
        ENGINE, run.seal, run.revision.digest, specimen_of(run),
        recipe.fit_lower_pa, recipe.fit_upper_pa, recipe.offset,
    ]  # fmt: skip
    return hashlib.sha256(json.dumps(used).encode()).hexdigest()


def derivation_of(run: Run) -> Derivation | None:
    return run.derivations.filter(kind=TENSION).first()


def derive(run_id: int) -> None:
    """Compute and keep a run's results, unless those kept are of the same inputs (worker)."""
    with one_state():
        run = Run.objects.select_related("revision").get(pk=run_id)
        recipe = recipe_of(run)
        digest = digest_of(run, recipe)
        kept = derivation_of(run)
        if kept and kept.digest == digest:
            return
        found = _compute(run, core_recipe(recipe))
    with transaction.atomic():
        run.derivations.update_or_create(kind=TENSION, defaults={"digest": digest, **found})
        notify(NEWS, kind="result", setup=run.setup_id)


def _compute(run: Run, recipe: "TensionRecipe") -> dict[str, Any]:
    """What is to be kept: results and curve, or the problem that keeps them from being."""
    import numpy as np
    from yoke_core.thin import thin_curve

    from yoke_server.derive.tension import curve_of

    try:
        curve = curve_of(run, recipe)
    except (Problem, CoreError) as error:
        return {"problem": {"title": str(error), "hint": error.hint}}
    except Error:  # the database is away: the whole task is tried again
        raise
    except Exception:  # a fault of ours with this run keeps no other run from its results
        log.exception("Results of run %s", run.pk)
        return {"problem": {"title": "It could not be computed.", "hint": IN_THE_LOG}}
    keep = thin_curve(curve.strain, curve.stress, 2 * MOST_PIXELS, 2 * MOST_PIXELS)
    points = np.stack([curve.strain[keep], curve.stress[keep]]).astype("<f4")
    return {"problem": None, "values": asdict(curve.result), "curve": points.tobytes()}


def curve_kept(derivation: Derivation) -> tuple["Array", "Array"]:
    """Strain (m/m, as measured) and stress (Pa) as kept."""
    import numpy as np

    strain, stress = np.frombuffer(derivation.curve, "<f4").reshape(2, -1).astype(float)
    return strain, stress


def derive_stale(setup_id: int, first: int | None = None) -> None:
    """Compute all results of a setup that are stale or not there yet, one run's before all."""
    runs = Run.objects.filter(setup_id=setup_id).exclude(state__in=OPEN_STATES)
    found = list(runs.order_by("-number").values_list("pk", flat=True))
    for run_id in sorted(found, key=lambda pk: pk != first):
        derive(run_id)


@transaction.atomic
def change_recipe(actor: Actor, run: Run, **changes: Any) -> TensionRecipeRow:
    """Change the setup's recipe; its results are computed anew by the worker.

    Refused, and nothing stored, if nothing would come of it for this run, as far as its kept
    curve shows.
    """
    from yoke_server.derive.tasks import order_results

    require(actor, "change recipes")
    TensionRecipeRow.objects.get_or_create(setup_id=run.setup_id)
    row = TensionRecipeRow.objects.select_for_update().get(setup_id=run.setup_id)
    changes = {k: v for k, v in changes.items() if getattr(row, k) != v}
    before = assign(row, changes)
    recipe = core_recipe(row)
    kept = derivation_of(run)
    if kept and kept.curve:
        _require_result(kept, recipe)
    if changes:
        row.save()
        change = Change("recipe", row.pk, before, changes)
        record(actor, "Changed the tension recipe", changes=[change])
        notify(NEWS, kind="recipe", setup=run.setup_id)
    order_results(run.setup_id, run.pk)
    return row


def _require_result(kept: Derivation, recipe: "TensionRecipe") -> None:
    """Raises `TensionError` if the kept curve has no result by this recipe."""
    from yoke_core.tension.results import tension_results

    strain, stress = curve_kept(kept)
    tension_results(stress, strain, recipe)
