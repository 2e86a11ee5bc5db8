from typing import Annotated, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.specimens.base import Section


class AreaPiece(Section):
    """A piece of any shape whose section is known."""

    kind: Literal["area"] = "area"
    section_m2: Annotated[float, fields.between(1e-9, 10)]

    @property
    def area_m2(self) -> float:
        return self.section_m2
