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


class CurveOut(Schema):
    """A run's curve thinned to its plots, its construction and results.

    ``strain`` (m/m, toe taken off) and ``stress`` (Pa) show the whole curve; the ``near``
    pair its elastic part in detail.
    """

    run: int
    strain: list[float]
    stress: list[float]
    near_strain: list[float]
    near_stress: list[float]
    recipe: RecipeOut
    result: TensionOut
