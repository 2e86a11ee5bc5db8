"""An inductive half bridge: two coils about a core that moves."""

from typing import ClassVar, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.inputs.base import InputKind, Sensor
from yoke_server.kinds.inputs.conditioning import BridgeConditioning
from yoke_server.kinds.inputs.divider import PINS, WIDEST, Divider
from yoke_server.kinds.scalings import BY_POINTS
from yoke_server.kinds.scalings.rated_output import RatedOutputScaling
from yoke_server.kinds.spec import Spec
from yoke_server.kinds.text_fields import CAPACITY, RATED_OUTPUT, RESISTANCE

CARRIER = 4800.0  # Hz


class InductiveWiring(Divider):
    """Two coils about a core that moves (half-bridge LVDT); it needs a carrier."""

    scalings: ClassVar = (RatedOutputScaling, *BY_POINTS)

    kind: Literal["inductive_half"] = "inductive_half"

    @property
    def connection(self) -> str:
        return "inductive half bridge"


class InductiveHalf(Sensor):
    """A half-bridge LVDT: two coils about a core; its output at capacity, of either sign."""

    wiring: ClassVar = InductiveWiring
    connection: ClassVar = "Inductive half bridge"
    text_fields: ClassVar = (RESISTANCE, RATED_OUTPUT, CAPACITY)
    serves: ClassVar = ("displacement",)

    kind: Literal["inductive_half"] = "inductive_half"
    resistance_ohm: fields.Resistance = 350.0
    rated_output: fields.RatedOutput
    capacity: fields.Capacity

    def channel(self) -> dict[str, Spec]:
        wiring = InductiveWiring(resistance_ohm=self.resistance_ohm)
        scaling = RatedOutputScaling(rated_output=self.rated_output, capacity=self.capacity)
        conditioning = BridgeConditioning(excitation_v=2.5, range_mv_v=WIDEST, carrier_hz=CARRIER)
        return {"wiring": wiring, "conditioning": conditioning, "scaling": scaling}

    @property
    def pins(self) -> dict[int, str]:
        return PINS


INPUT = InputKind(wiring=InductiveWiring, sensors=(InductiveHalf,))
