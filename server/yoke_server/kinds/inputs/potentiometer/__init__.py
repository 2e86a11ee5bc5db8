"""A resistance with a wiper."""

from typing import ClassVar, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.inputs.base import InputKind, Sensor
from yoke_server.kinds.inputs.conditioning import BridgeConditioning
from yoke_server.kinds.inputs.divider import PINS, WIDEST, Divider
from yoke_server.kinds.scalings import BY_POINTS
from yoke_server.kinds.scalings.two_points import TwoPointScaling
from yoke_server.kinds.spec import Spec
from yoke_server.kinds.text_fields import RESISTANCE, quantity


class PotentiometerWiring(Divider):
    """A resistance with a wiper."""

    scalings: ClassVar = BY_POINTS

    kind: Literal["potentiometer"] = "potentiometer"


class Potentiometer(Sensor):
    """A resistance with a wiper that goes from end to end over its travel."""

    wiring: ClassVar = PotentiometerWiring
    connection: ClassVar = "Potentiometer"
    text_fields: ClassVar = (RESISTANCE, quantity("capacity", "Travel"))
    serves: ClassVar = ("displacement", "angle")

    kind: Literal["potentiometer"] = "potentiometer"
    resistance_ohm: fields.Resistance = 5000.0
    capacity: fields.Capacity

    def channel(self) -> dict[str, Spec]:
        wiring = PotentiometerWiring(resistance_ohm=self.resistance_ohm)
        scaling = TwoPointScaling(signal_1=-0.5, value_1=0.0, signal_2=0.5, value_2=self.capacity)
        conditioning = BridgeConditioning(excitation_v=2.5, range_mv_v=WIDEST)
        return {"wiring": wiring, "conditioning": conditioning, "scaling": scaling}

    @property
    def pins(self) -> dict[int, str]:
        return PINS


INPUT = InputKind(wiring=PotentiometerWiring, sensors=(Potentiometer,))
