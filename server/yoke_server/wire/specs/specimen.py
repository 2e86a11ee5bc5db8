"""What is tested: a piece with a section, or a part of the product."""

import math
from typing import Annotated, Literal

from pydantic import Field

from yoke_server.common import fields
from yoke_server.wire.specs.base import Spec


def mm(value_m: float) -> str:
    return f"{value_m * 1e3:.2f} mm"


class Section(Spec):
    """What pieces with a section have in common; each says its shape and area."""

    gauge_length_m: fields.GaugeLength

    @property
    def shape(self) -> str:
        return "Piece"

    @property
    def area_m2(self) -> float:
        raise NotImplementedError

    @property
    def sentence(self) -> str:
        """As reports print it."""
        section = f"section {self.area_m2 * 1e6:.2f} mm²"
        return f"{self.shape}, {section}, gauge length {mm(self.gauge_length_m)}."


class FlatPiece(Section):
    """A flat coupon."""

    kind: Literal["flat"] = "flat"
    width_m: fields.Side
    thickness_m: fields.Side

    @property
    def shape(self) -> str:
        return f"Flat coupon, width {mm(self.width_m)}, thickness {mm(self.thickness_m)}"

    @property
    def area_m2(self) -> float:
        return self.width_m * self.thickness_m


class RoundPiece(Section):
    """A round bar."""

    kind: Literal["round"] = "round"
    diameter_m: fields.Side

    @property
    def shape(self) -> str:
        return f"Round bar, diameter {mm(self.diameter_m)}"

    @property
    def area_m2(self) -> float:
        return math.pi * self.diameter_m**2 / 4


class TubePiece(Section):
    """A piece of tube. One whose wall reaches its middle is a bar."""

    kind: Literal["tube"] = "tube"
    outer_m: fields.Side
    wall_m: fields.Side

    @property
    def shape(self) -> str:
        return f"Tube, outside {mm(self.outer_m)}, wall {mm(self.wall_m)}"

    @property
    def area_m2(self) -> float:
        wall = min(self.wall_m, self.outer_m / 2)
        return math.pi * wall * (self.outer_m - wall)


class AreaPiece(Section):
    """A piece of any shape whose section is known."""

    kind: Literal["area"] = "area"
    section_m2: Annotated[float, fields.between(1e-9, 10)]

    @property
    def area_m2(self) -> float:
        return self.section_m2


class PartPiece(Spec):
    """A component, which has no section of its own."""

    kind: Literal["part"] = "part"

    @property
    def area_m2(self) -> None:
        return None

    @property
    def sentence(self) -> str:
        return "Part of the product."


SpecimenSpec = Annotated[
    FlatPiece | RoundPiece | TubePiece | AreaPiece | PartPiece, Field(discriminator="kind")
]
