import math
from typing import Literal

from yoke_server.common.http import fields
from yoke_server.kinds.specimens.base import Section, mm


class RingPiece(Section):
    """A made-up specimen: a ring whose two legs carry."""

    kind: Literal["ring"] = "ring"
    wire_m: fields.Side

    @property
    def shape(self) -> str:
        return f"Ring of wire, {mm(self.wire_m)}"

    @property
    def area_m2(self) -> float:
        return 2 * math.pi * self.wire_m**2 / 4
