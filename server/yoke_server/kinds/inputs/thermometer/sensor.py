from typing import Annotated, ClassVar, Literal

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.inputs.base import Sensor
from yoke_server.kinds.inputs.conditioning import FixedConditioning
from yoke_server.kinds.inputs.thermometer.scaling import PlatinumScaling
from yoke_server.kinds.inputs.thermometer.wiring import ThermometerWiring
from yoke_server.kinds.spec import Spec
from yoke_server.kinds.text_fields import WIRES, figure

PINS = {1: "current", 2: "back", 3: "back, lead", 4: "current back"}


class PlatinumSensor(Sensor):
    """A platinum resistance thermometer."""

    wiring: ClassVar = ThermometerWiring
    connection: ClassVar = "Platinum thermometer"
    text_fields: ClassVar = (figure("nominal", "At 0 °C", "nominal_ohm", "Ω"), WIRES)
    serves: ClassVar = ("temperature",)

    kind: Literal["platinum"] = "platinum"
    nominal_ohm: fields.Resistance = 100.0
    wires: Annotated[int, Field(ge=3, le=4)] = 3

    def channel(self) -> dict[str, Spec]:
        scaling = PlatinumScaling(nominal_ohm=self.nominal_ohm)
        wiring = ThermometerWiring(wires=self.wires)
        return {"wiring": wiring, "conditioning": FixedConditioning(), "scaling": scaling}

    @property
    def pins(self) -> dict[int, str]:
        return {pin: function for pin, function in PINS.items() if pin <= self.wires}
