"""The protocol of specimens."""

from typing import ClassVar

from yoke_server.common.http import fields
from yoke_server.kinds.spec import Spec


def mm(value_m: float) -> str:
    return f"{value_m * 1e3:.2f} mm"


class Specimen(Spec):
    """What is tested."""

    used_once: ClassVar[bool] = True  # whether a run uses it up

    @property
    def area_m2(self) -> float | None:
        """Of its section; None where it has none of its own."""
        raise NotImplementedError

    @property
    def sentence(self) -> str:
        """As reports print it."""
        raise NotImplementedError


class Section(Specimen):
    """A specimen with a section; each says its shape and area."""

    gauge_length_m: fields.GaugeLength

    @property
    def shape(self) -> str:
        return "Piece"

    @property
    def area_m2(self) -> float:
        raise NotImplementedError

    @property
    def sentence(self) -> str:
        section = f"section {self.area_m2 * 1e6:.2f} mm²"
        return f"{self.shape}, {section}, gauge length {mm(self.gauge_length_m)}."
