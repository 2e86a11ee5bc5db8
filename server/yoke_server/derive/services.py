"""Tension results of a run, computed by the core from the stored raw blocks."""

from dataclasses import asdict, dataclass, replace
from typing import TYPE_CHECKING, Any

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.calibrate.scaling import to_quantity
from yoke_server.common.notify import NEWS, notify
from yoke_server.common.problems import Problem
from yoke_server.derive.models import TensionRecipeRow, TensionResultRow
from yoke_server.ledger.services import Change, assign, record
from yoke_server.record.models import OPEN_STATES, Run, Stream
from yoke_server.record.queries import document_of, specimen_of
from yoke_server.record.samples import read
from yoke_server.wire.document import FrozenChannel, FrozenSetup

if TYPE_CHECKING:
    from yoke_core.tension.results import Array, TensionRecipe, TensionResult


@dataclass(frozen=True, slots=True)
class Curve:
    """Engineering stress (Pa) and strain (m/m, as measured) of a run."""

    stress: "Array"
    strain: "Array"
    result: "TensionResult"


def recipe_of(run: Run) -> TensionRecipeRow:
    return TensionRecipeRow.objects.get_or_create(setup_id=run.setup_id)[0]


def core_recipe(row: TensionRecipeRow) -> "TensionRecipe":
    """The recipe for the core; raises `TensionError` naming the field at fault."""
    from yoke_core.tension.results import TensionRecipe

    return TensionRecipe(row.fit_lower_pa, row.fit_upper_pa, row.offset)


def curve_of(run: Run, recipe: "TensionRecipe") -> Curve:
    """Force and extension of the run as stress, strain and results; gaps are left out."""
    import numpy as np
    from yoke_core.tension.results import tension_results
    from yoke_core.tension.specimen import FlatSpecimen

    if run.state in OPEN_STATES:
        raise Problem(409, f"{run.name} is still being recorded.", hint="Stop it first.")
    setup = document_of(run)
    channels = [_channel(setup, "force"), _channel(setup, "extension")]
    force, extension = (_quantity(run, channel) for channel in channels)
    notes = [
        note
        for channel, values in zip(channels, (force, extension), strict=True)
        if (note := _clipped_note(channel, values))
    ]
    finite = np.isfinite(force) & np.isfinite(extension)
    force, extension = force[finite], extension[finite]
    measured = specimen_of(run)
    specimen = FlatSpecimen(
        measured["width_m"], measured["thickness_m"], measured["gauge_length_m"]
    )
    stress, strain = specimen.stress(force), specimen.strain(extension)
    result = tension_results(stress, strain, recipe)
    return Curve(stress, strain, replace(result, notes=(*result.notes, *notes)))


def _channel(setup: FrozenSetup, quantity: str) -> FrozenChannel:
    if channel := setup.channel(quantity):
        return channel
    raise Problem(
        409,
        f"This run has no {quantity} channel.",
        hint="Stress and strain need a load cell and an extensometer.",
    )


def _quantity(run: Run, channel: FrozenChannel) -> "Array":
    """All samples of a channel in SI; infinite where they clipped."""
    import numpy as np

    stream = Stream.objects.filter(run=run, channels__channel_key=channel.key).first()
    if stream is None or not stream.samples:
        raise Problem(409, f"{run.name} holds no samples.", hint="Choose another run.")
    place = stream.channels.get(channel_key=channel.key).position
    return to_quantity(channel, read(stream, [place], 0, stream.samples)[0].astype(np.float64))


def _clipped_note(channel: FrozenChannel, values: "Array") -> str:
    """What a reader must know of samples at the converter's rail; empty if there are none."""
    import numpy as np

    count = int(np.isinf(values).sum())
    if not count:
        return ""
    return (
        f"{channel.name} clipped in {count} of {values.size} samples: they have no value and are "
        "left out, so what it would have shown there is not in these results."
    )


def derive(run: Run) -> TensionResultRow:
    """Compute and keep the run's result with the recipe in force."""
    recipe = recipe_of(run)
    curve = curve_of(run, core_recipe(recipe))
    return keep(run, recipe, curve.result)


def keep(run: Run, recipe: TensionRecipeRow, result: "TensionResult") -> TensionResultRow:
    used = {
        "fit_lower_pa": recipe.fit_lower_pa,
        "fit_upper_pa": recipe.fit_upper_pa,
        "offset": recipe.offset,
        **specimen_of(run),
        "seal": run.seal,
    }
    row, fresh = TensionResultRow.objects.update_or_create(
        run=run, defaults={"values": asdict(result), "recipe": used}
    )
    if fresh:
        notify(NEWS, kind="result", setup=run.setup_id)
    return row


@transaction.atomic
def renew(actor: Actor, run: Run, **changes: Any) -> tuple[TensionRecipeRow, Curve]:
    """Change the setup's recipe and compute the run anew; nothing is stored if that fails."""
    require(actor, "change recipes")
    recipe_of(run)
    row = TensionRecipeRow.objects.select_for_update().get(setup_id=run.setup_id)
    changes = {k: v for k, v in changes.items() if getattr(row, k) != v}
    before = assign(row, changes)
    curve = curve_of(run, core_recipe(row))
    row.save()
    keep(run, row, curve.result)
    if not changes:
        return row, curve
    change = Change("recipe", row.pk, before, changes)
    record(actor, "Changed the tension recipe", changes=[change])
    notify(NEWS, kind="recipe", setup=run.setup_id)
    return row, curve
