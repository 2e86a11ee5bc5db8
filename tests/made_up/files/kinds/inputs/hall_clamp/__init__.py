"""A made-up kind of input: a clamp whose voltage goes with the square of the current."""

from typing import TYPE_CHECKING, Annotated, ClassVar, Literal

from yoke_server.common.http import fields
from yoke_server.kinds.inputs.base import InputKind, Sensor, SensorType, Wiring
from yoke_server.kinds.inputs.conditioning import Conditioning, FixedConditioning
from yoke_server.kinds.scalings import BY_POINTS
from yoke_server.kinds.scalings.base import Scaling
from yoke_server.kinds.spec import Spec
from yoke_server.kinds.text_fields import figure

if TYPE_CHECKING:
    from yoke_core.signals.chain import Step


class HallScaling(Scaling):
    """So much of the quantity for each volt."""

    kind: Literal["hall"] = "hall"
    per_volt: Annotated[float, fields.between(1e-6, 1e6)]

    def steps(self, wiring: Wiring) -> "list[Step]":
        from yoke_core.scaling.line import Line

        return [Line(self.per_volt, 0.0)]


class HallWiring(Wiring):
    """A clamp about a conductor."""

    signal: ClassVar = "voltage"
    scalings: ClassVar = (HallScaling, *BY_POINTS)

    kind: Literal["hall_clamp"] = "hall_clamp"
    turns: Annotated[int, fields.between(1, 100)] = 1

    def facts(self, conditioning: Conditioning) -> list[tuple[str, str]]:
        return [("Clamp", f"{self.turns} turns")]


class HallClamp(Sensor):
    """A clamp as the library knows it."""

    wiring: ClassVar = HallWiring
    connection: ClassVar = "Hall clamp"
    text_fields: ClassVar = (figure("per_volt", "Per volt", "per_volt", ""),)
    serves: ClassVar = ("current clamp",)

    kind: Literal["hall_clamp"] = "hall_clamp"
    per_volt: Annotated[float, fields.between(1e-6, 1e6)]

    def channel(self) -> dict[str, Spec]:
        scaling = HallScaling(per_volt=self.per_volt)
        return {"wiring": HallWiring(), "conditioning": FixedConditioning(), "scaling": scaling}

    @property
    def pins(self) -> dict[int, str]:
        return {1: "output +", 2: "output −"}


INPUT = InputKind(
    wiring=HallWiring,
    sensors=(HallClamp,),
    scalings=(HallScaling,),
    sensor_types={"current clamp": SensorType("force", "hall_clamp")},
)
