from typing import ClassVar, Literal

from yoke_server.kinds.specimens.base import Specimen


class PartPiece(Specimen):
    """A component, which has no section of its own; it may be loaded many times."""

    used_once: ClassVar = False

    kind: Literal["part"] = "part"

    @property
    def area_m2(self) -> None:
        return None

    @property
    def sentence(self) -> str:
        return "Part of the product."
