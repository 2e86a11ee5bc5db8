from typing import Literal

from yoke_server.common.http import fields
from yoke_server.kinds.specimens.base import Section, mm


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
