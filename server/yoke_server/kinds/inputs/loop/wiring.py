from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.kinds.inputs.base import Measured, Wiring
from yoke_server.kinds.inputs.conditioning import Conditioning
from yoke_server.kinds.inputs.loop.scaling import LoopSpanScaling
from yoke_server.kinds.measured import MeasuredChannel
from yoke_server.kinds.scalings import BY_POINTS

if TYPE_CHECKING:
    from yoke_core.signals.chain import Step
    from yoke_core.wiring.check import Verdict

LOW, HIGH = 4e-3, 20e-3  # A


class LoopWiring(Wiring):
    """A 4-20 mA loop, read as the voltage across a precision resistor.

    With two cores the loop supplies the transmitter, with three it has a supply of its own.
    """

    signal: ClassVar = "voltage"
    scalings: ClassVar = (LoopSpanScaling, *BY_POINTS)

    kind: Literal["loop"] = "loop"
    wires: Annotated[int, Field(ge=2, le=3)] = 2
    resistor_ohm: Annotated[float, fields.between(1, 1000)] = 50.0

    @property
    def connection(self) -> str:
        return "4-20 mA loop"

    def signal_steps(self) -> "list[Step]":
        from yoke_core.scaling.loop import LoopCurrent

        return [LoopCurrent(self.resistor_ohm)]

    def rest_signal(self, channel: MeasuredChannel) -> float:
        return (LOW + HIGH) / 2 * self.resistor_ohm

    def signal_range(self, channel: MeasuredChannel) -> tuple[float, float]:
        return LOW * self.resistor_ohm, HIGH * self.resistor_ohm

    def steady(self, conditioning: Conditioning) -> float:
        return 0.01 * (HIGH - LOW) * self.resistor_ohm

    def check(self, channel: Any, measured: Measured) -> "Verdict":
        from yoke_core.wiring.other_signals import check_loop

        return check_loop(measured.samples, self.resistor_ohm)
