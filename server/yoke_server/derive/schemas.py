from datetime import datetime

from ninja import Schema

from yoke_server.common import fields
from yoke_server.common.fields import Body, may_stay


class RecipeOut(Schema):
    fit_lower_pa: float
    fit_upper_pa: float
    offset: float


class RecipeChange(Body):
    """Stresses in Pa, offset in m/m; what is left out stays."""

    fit_lower_pa: fields.Stress = may_stay()
    fit_upper_pa: fields.Stress = may_stay()
    offset: fields.ProofOffset = may_stay()


class ModulusOut(Schema):
    slope: float
    origin: float
    points: int
    correlation: float


class PointOut(Schema):
    strain: float
    stress: float


class TensionOut(Schema):
    """Results in SI; strains with the toe taken off."""

    modulus: ModulusOut
    proof: PointOut | None
    strength: PointOut
    plastic_at_strength: float
    total_at_strength: float
    fracture: PointOut | None
    elongation_after_break: float | None
    energy: float
    notes: list[str]


class ProblemOut(Schema):
    title: str
    hint: str


class TensionState(Schema):
    """A run's results: ``stale`` until the worker has computed them of what is in force now.

    ``problem`` says why there are none; ``result`` is the last that there was.
    """

    run: int
    recipe: RecipeOut
    stale: bool
    problem: ProblemOut | None
    result: TensionOut | None
    computed_at: datetime | None
