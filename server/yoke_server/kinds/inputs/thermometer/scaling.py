from typing import TYPE_CHECKING, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.scalings.base import Scaling

if TYPE_CHECKING:
    from yoke_core.signals.chain import Step

    from yoke_server.kinds.inputs.base import Wiring


class PlatinumScaling(Scaling):
    """A platinum thermometer by IEC 60751, with its resistance at 0 degC."""

    kind: Literal["platinum"] = "platinum"
    nominal_ohm: fields.Resistance = 100.0

    def steps(self, wiring: "Wiring") -> "list[Step]":
        from yoke_core.scaling.platinum import PlatinumThermometer

        return [PlatinumThermometer(self.nominal_ohm)]

    @property
    def rest_signal(self) -> float:
        return self.nominal_ohm
