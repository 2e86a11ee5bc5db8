"""A run's stress-strain curve and its results, by the core, from the stored raw blocks."""

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from yoke_server.calibrate.scaling import chain_of
from yoke_server.common.problems import Problem
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
    samples = read(stream, [place], 0, stream.samples)[0].astype(np.float64)
    return chain_of(channel).apply(samples)


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
