"""A voltage between two pins."""

from typing import Annotated, ClassVar, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.inputs.base import InputKind, Sensor, SensorType, Wiring
from yoke_server.kinds.inputs.conditioning import Conditioning, FixedConditioning
from yoke_server.kinds.scalings import BY_POINTS
from yoke_server.kinds.scalings.two_points import TwoPointScaling
from yoke_server.kinds.spec import Spec
from yoke_server.kinds.text_fields import CAPACITY, figure


class VoltageWiring(Wiring):
    """A voltage between two pins."""

    signal: ClassVar = "voltage"
    scalings: ClassVar = BY_POINTS

    kind: Literal["voltage"] = "voltage"

    @property
    def turning_pins(self) -> tuple[int, ...]:
        return (1, 2)

    def steady(self, conditioning: Conditioning) -> float:
        return 0.1


class VoltageOutput(Sensor):
    """An instrument with a voltage output, which gives ``full_output`` at its capacity."""

    wiring: ClassVar = VoltageWiring
    connection: ClassVar = "Voltage"
    text_fields: ClassVar = (figure("full_output", "Full output", "full_output", "V"), CAPACITY)
    serves: ClassVar = (
        "load cell",
        "torque sensor",
        "displacement",
        "pressure",
        "angle",
        "speed pulses",
        "acceleration",
        "force output",
    )

    kind: Literal["voltage"] = "voltage"
    full_output: Annotated[float, fields.between(1e-3, 1000)] = 10.0
    capacity: fields.Capacity

    def channel(self) -> dict[str, Spec]:
        scaling = TwoPointScaling(
            signal_1=0.0, value_1=0.0, signal_2=self.full_output, value_2=self.capacity
        )
        return {"wiring": VoltageWiring(), "conditioning": FixedConditioning(), "scaling": scaling}

    @property
    def pins(self) -> dict[int, str]:
        return {1: "output +", 2: "output −"}


INPUT = InputKind(
    wiring=VoltageWiring,
    sensors=(VoltageOutput,),
    sensor_types={"force output": SensorType("force", "voltage")},
)
