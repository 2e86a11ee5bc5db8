from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import Field

from yoke_server.kinds.inputs.base import Measured, Wiring
from yoke_server.kinds.inputs.thermometer.scaling import PlatinumScaling
from yoke_server.kinds.measured import MeasuredChannel
from yoke_server.kinds.scalings import BY_POINTS

if TYPE_CHECKING:
    from yoke_core.wiring.check import Verdict

NOMINAL_OHM = 100.0


class ThermometerWiring(Wiring):
    """A resistance thermometer; with three wires the device takes the lead off itself."""

    signal: ClassVar = "resistance"
    scalings: ClassVar = (PlatinumScaling, *BY_POINTS)

    kind: Literal["thermometer"] = "thermometer"
    wires: Annotated[int, Field(ge=3, le=4)] = 3

    @property
    def connection(self) -> str:
        return f"resistance thermometer, {self.wires}-wire"

    @property
    def connection_short(self) -> str:
        return f"Pt, {self.wires}-wire"

    def signal_range(self, channel: MeasuredChannel) -> tuple[float, float]:
        at_rest = self.rest_signal(channel) or NOMINAL_OHM
        return 0.8 * at_rest, 1.4 * at_rest

    def check(self, channel: Any, measured: Measured) -> "Verdict":
        from yoke_core.wiring.other_signals import check_thermometer

        return check_thermometer(measured.samples, channel.scaling.rest_signal or NOMINAL_OHM)
