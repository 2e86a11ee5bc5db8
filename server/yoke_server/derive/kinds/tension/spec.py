"""What a person sets for a tension test, and what is kept of its results."""

from typing import Literal

from pydantic import BaseModel

from yoke_server.common.http import fields
from yoke_server.kinds.spec import Spec


class TensionParameters(Spec):
    """Stresses in Pa, offset in m/m."""

    kind: Literal["tension"] = "tension"
    fit_lower_pa: fields.Stress = 60e6
    fit_upper_pa: fields.Stress = 180e6
    offset: fields.ProofOffset = 0.002


class Modulus(BaseModel):
    slope: float
    origin: float
    points: int
    correlation: float


class Point(BaseModel):
    strain: float
    stress: float


class TensionDetails(Spec):
    """Results in SI; strains with the toe taken off. The columns' first points are the whole
    curve, those after ``whole_points`` its elastic part."""

    kind: Literal["tension"] = "tension"
    modulus: Modulus
    proof: Point | None
    strength: Point
    plastic_at_strength: float
    total_at_strength: float
    fracture: Point | None
    elongation_after_break: float | None
    energy: float
    whole_points: int
