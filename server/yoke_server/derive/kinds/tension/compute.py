"""Tension of a flat coupon: modulus, proof strength, strength, extensions."""

from dataclasses import asdict, dataclass, replace
from typing import TYPE_CHECKING, Any, ClassVar

from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.derive.inputs import clipped_note, setup_of, whole
from yoke_server.derive.kinds.base import Column, Columns, Computed, Offer, ResultKind, Value
from yoke_server.derive.kinds.tension.spec import TensionDetails, TensionParameters
from yoke_server.kinds.spec import Spec
from yoke_server.record.models import Run
from yoke_server.record.queries import piece_of
from yoke_server.setups.document import FrozenSetup
from yoke_server.setups.readable import ReadableChannel, measured

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray
    from yoke_core.tension.results import TensionRecipe, TensionResult

    Array = NDArray[np.float64]

MAX_PIXELS = 2000  # of the largest plot; what is kept of a curve is enough for it
NEAR_OFFSETS = 5  # the detailed plot reaches this many offsets far
STANDARD = "ISO 6892-1:2019"


@dataclass(frozen=True, slots=True)
class Curve:
    """Engineering stress (Pa) and strain (m/m, as measured) of a run."""

    stress: "Array"
    strain: "Array"
    result: "TensionResult"


def core_recipe(parameters: TensionParameters) -> "TensionRecipe":
    """The recipe for the core; raises `TensionError` naming the field at fault."""
    from yoke_core.tension.results import TensionRecipe

    return TensionRecipe(parameters.fit_lower_pa, parameters.fit_upper_pa, parameters.offset)


def curve_of(run: Run, parameters: TensionParameters) -> Curve:
    """Force and extension of the run as stress, strain and results; gaps are left out."""
    import numpy as np
    from yoke_core.tension.results import tension_results
    from yoke_core.tension.specimen import Specimen

    setup = setup_of(run)
    channels = [_channel(setup, "force"), _channel(setup, "extension")]
    force, extension = (whole(run, channel.key) for channel in channels)
    notes = [
        note
        for channel, values in zip(channels, (force, extension), strict=True)
        if (note := clipped_note(channel, int(np.isinf(values).sum()), values.size))
    ]
    finite = np.isfinite(force) & np.isfinite(extension)
    force, extension = force[finite], extension[finite]
    piece = piece_of(run)
    if piece.area_m2 is None:
        raise Problem(
            409,
            "A part has no section, so its force gives no stress.",
            code=ProblemType.NO_RESULT,
            field="piece",
            hint="Say in Record what kind of piece is pulled, and its size.",
        )
    specimen = Specimen(piece.area_m2, piece.gauge_length_m)
    stress, strain = specimen.stress(force), specimen.strain(extension)
    result = tension_results(stress, strain, core_recipe(parameters))
    return Curve(stress, strain, replace(result, notes=(*result.notes, *notes)))


def _channel(setup: FrozenSetup, quantity: str) -> ReadableChannel:
    if channel := setup.channel(quantity):
        return measured(channel)
    raise Problem(
        409,
        f"This run has no channel that measures {quantity}, so it gives no stress-strain curve.",
        code=ProblemType.NO_RESULT,
        hint=f"Wire a sensor for {quantity}, then pull again.",
    )


class TensionKind(ResultKind):
    """Stress-strain results of a coupon."""

    engine: ClassVar[int] = 1
    uses_piece: ClassVar[bool] = True
    parameters: ClassVar[type[Spec]] = TensionParameters
    details: ClassVar[type[Spec]] = TensionDetails

    def offers(self, setup: FrozenSetup) -> list[Offer]:
        """For setups that measure force and extension."""
        if not (setup.channel("force") and setup.channel("extension")):
            return []
        return [Offer("Stress-strain results", TensionParameters(), suggested=True)]

    def report_title(self, specimen: str) -> str:
        return f"Tension test of {specimen}"

    def channels(self, parameters: Any, setup: FrozenSetup) -> list[str]:
        found = (setup.channel(quantity) for quantity in ("force", "extension"))
        return [channel.key for channel in found if channel]

    def check(self, parameters: Any, setup: FrozenSetup) -> None:
        core_recipe(parameters)

    def precheck(self, columns: Columns, details: Any, parameters: Any) -> None:
        from yoke_core.tension.results import tension_results

        whole = slice(0, details["whole_points"])
        stress, strain = (columns[n][whole].astype(float) for n in ("stress", "strain"))
        tension_results(stress, strain, core_recipe(parameters))

    def compute(self, run: Run, parameters: Any) -> Computed:
        curve = curve_of(run, parameters)
        strain, stress, points = _shown(curve, parameters.offset)
        found = asdict(curve.result)
        notes = list(found.pop("notes"))
        details = TensionDetails.model_validate(found | {"whole_points": points}, strict=False)
        columns = [Column("strain", "%", strain), Column("stress", "MPa", stress)]
        return Computed(values_of(curve.result, parameters), details, columns, notes)

    def figure(self, columns: Columns, details: Any, parameters: Any) -> str:
        from yoke_server.derive.kinds.tension.figure import figure

        return figure(columns, details, parameters)


def _shown(curve: Curve, offset: float) -> "tuple[Array, Array, int]":
    """Strain less its toe, and stress: the whole curve up to its end, then its elastic part."""
    import numpy as np
    from yoke_core.streaming.thin import thin_curve

    strain, stress = curve.strain - curve.result.modulus.origin, curve.stress
    fracture = curve.result.fracture
    last = len(strain) if fracture is None else fracture.index + 1
    beyond = np.flatnonzero(strain > NEAR_OFFSETS * offset)
    near = int(beyond[0]) + 1 if beyond.size else len(strain)
    keep = thin_curve(strain[:last], stress[:last], MAX_PIXELS, MAX_PIXELS)
    part = thin_curve(strain[:near], stress[:near], MAX_PIXELS, MAX_PIXELS)
    both = np.concatenate([keep, part])
    return strain[both], stress[both], len(keep)


def values_of(result: "TensionResult", parameters: TensionParameters) -> list[Value]:
    """The results as rows of a table."""
    low, high = parameters.fit_lower_pa / 1e6, parameters.fit_upper_pa / 1e6
    offset = parameters.offset * 100
    proof, fracture = result.proof, result.fracture
    by_extensometer = "by extensometer"
    return [
        Value("E", "Modulus", result.modulus.slope, "GPa", 1,
              f"line from {low:g} to {high:g} MPa", f"{STANDARD}, annex G"),
        Value(f"Rp{offset:g}", "Proof strength", proof.stress if proof else None, "MPa", 1,
              f"at {offset:g} % plastic extension", f"{STANDARD}, 3.10.3"),
        Value("Rm", "Tensile strength", result.strength.stress, "MPa", 1,
              "at maximum force", f"{STANDARD}, 3.10.1"),
        Value("Ag", "Plastic extension", result.plastic_at_strength, "%", 1,
              "at maximum force", f"{STANDARD}, 3.6.5"),
        Value("At", "Total extension", fracture.strain if fracture else None, "%", 1,
              "at fracture", f"{STANDARD}, 3.6.6"),
        Value("A", "Elongation after fracture", result.elongation_after_break, "%", 1,
              by_extensometer, f"{STANDARD}, 3.4.2"),
        Value("Energy", "Energy per volume", result.energy, "MJ/m³", 1, "to fracture"),
    ]  # fmt: skip
