"""What a person sets for counted cycles, and what is kept of them."""

from typing import Annotated, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.spec import Spec


class CyclesParameters(Spec):
    """``gate`` in the channel's quantity (SI): ways up to it are left out.

    Stress comes of strain by ``modulus_pa``, of force by the section that it acts on; with a
    tensile strength, mean stresses count.
    """

    kind: Literal["cycles"] = "cycles"
    channel: fields.Key
    gate: Annotated[float, fields.between(0, 1e9)] = 0.0
    modulus_pa: Annotated[float, fields.between(1e6, 1e13)] = 205e9
    section_m2: Annotated[float, fields.between(1e-9, 10)] | None = None
    tensile_strength_pa: Annotated[float, fields.between(1e6, 1e11)] | None = None
    curve_strength_pa: Annotated[float, fields.between(1e6, 1e11)] = 900e6
    curve_exponent: Annotated[float, fields.between(-2, 2)] = -0.1


class CyclesDetails(Spec):
    """The range-mean matrix row by row, classes of ``width`` in SI from ``lowest_mean`` on.

    ``stress_by_unit`` is 0 where no stress, and so no life, comes of what was counted.
    """

    kind: Literal["cycles"] = "cycles"
    channel: str
    unit: str
    width: float
    lowest_mean: float
    counts: list[list[float]]
    damage: list[list[float]]
    points: int
    stress_by_unit: float
    curve_strength_pa: float
    curve_exponent: float
