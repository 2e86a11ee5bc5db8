from typing import Annotated, ClassVar, Literal

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.inputs.base import Sensor
from yoke_server.kinds.inputs.conditioning import FixedConditioning
from yoke_server.kinds.inputs.loop.scaling import LoopSpanScaling
from yoke_server.kinds.inputs.loop.wiring import LoopWiring
from yoke_server.kinds.spec import Spec
from yoke_server.kinds.text_fields import WIRES, quantity

PINS = {1: "supply +", 2: "loop back", 3: "supply −"}


class LoopTransmitter(Sensor):
    """An instrument with a 4-20 mA output."""

    wiring: ClassVar = LoopWiring
    connection: ClassVar = "4-20 mA"
    text_fields: ClassVar = (
        quantity("at_4_ma", "At 4 mA"),
        quantity("at_20_ma", "At 20 mA"),
        WIRES,
    )
    serves: ClassVar = ("load cell", "displacement", "pressure", "angle", "temperature")

    kind: Literal["loop"] = "loop"
    at_4_ma: fields.Quantity
    at_20_ma: fields.Quantity
    wires: Annotated[int, Field(ge=2, le=3)] = 2

    def channel(self) -> dict[str, Spec]:
        return {
            "wiring": LoopWiring(wires=self.wires),
            "conditioning": FixedConditioning(),
            "scaling": LoopSpanScaling(at_4_ma=self.at_4_ma, at_20_ma=self.at_20_ma),
        }

    @property
    def pins(self) -> dict[int, str]:
        return {pin: function for pin, function in PINS.items() if pin <= self.wires}
