import math
from typing import Literal

from yoke_server.common.http import fields
from yoke_server.kinds.specimens.base import Section, mm


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
