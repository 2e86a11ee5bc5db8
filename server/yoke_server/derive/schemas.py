from typing import Annotated

from ninja import Schema
from pydantic import Field

from yoke_server.wire.schemas import Positive


class RecipeOut(Schema):
    fit_lower_pa: float
    fit_upper_pa: float
    offset: float


class RecipeChange(Schema):
    """Stresses in Pa, offset in m/m; what is left out stays."""

    fit_lower_pa: Positive | None = None
    fit_upper_pa: Positive | None = None
    offset: Annotated[float, Field(gt=0, lt=0.1)] | None = None


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
