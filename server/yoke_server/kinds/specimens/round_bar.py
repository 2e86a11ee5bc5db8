import math
from typing import Literal

from yoke_server.common.http import fields
from yoke_server.kinds.specimens.base import Section, mm


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
