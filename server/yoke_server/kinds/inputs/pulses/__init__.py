"""Pulses that are counted."""

import math
from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import Field

from yoke_server.kinds.inputs.base import InputKind, Measured, Sensor, SensorType, Wiring
from yoke_server.kinds.inputs.conditioning import FixedConditioning
from yoke_server.kinds.scalings import BY_POINTS
from yoke_server.kinds.scalings.base import Scaling
from yoke_server.kinds.spec import Spec
from yoke_server.kinds.text_fields import Field as TextField
from yoke_server.kinds.text_fields import whole

if TYPE_CHECKING:
    from yoke_core.signals.chain import Step
    from yoke_core.wiring.check import Verdict

FULL_SCALE = 1e4  # Hz
PulsesPerTurn = Annotated[int, Field(ge=1, le=100_000)]
PULSES = TextField(
    "pulses_per_turn", "Pulses a turn", "pulses_per_turn", whole("pulses"), lambda v, q: f"{v}"
)


class PulseRateScaling(Scaling):
    """A speed of rotation by so many pulses a turn."""

    takes_zero: ClassVar = False

    kind: Literal["pulse_rate"] = "pulse_rate"
    pulses_per_turn: PulsesPerTurn

    def steps(self, wiring: Wiring) -> "list[Step]":
        from yoke_core.scaling.line import Line

        return [Line(2 * math.pi / self.pulses_per_turn, 0.0)]


class PulseWiring(Wiring):
    """Pulses that are counted, from a pick-up that the device supplies."""

    signal: ClassVar = "frequency"
    scalings: ClassVar = (PulseRateScaling, *BY_POINTS)

    kind: Literal["pulses"] = "pulses"

    def check(self, channel: Any, measured: Measured) -> "Verdict":
        from yoke_core.wiring.other_signals import check_voltage

        return check_voltage(measured.samples, FULL_SCALE)


class PulseSensor(Sensor):
    """A pick-up that gives so many pulses a turn."""

    wiring: ClassVar = PulseWiring
    connection: ClassVar = "Pulses"
    text_fields: ClassVar = (PULSES,)
    serves: ClassVar = ("speed pulses",)

    kind: Literal["pulses"] = "pulses"
    pulses_per_turn: PulsesPerTurn

    def channel(self) -> dict[str, Spec]:
        scaling = PulseRateScaling(pulses_per_turn=self.pulses_per_turn)
        return {"wiring": PulseWiring(), "conditioning": FixedConditioning(), "scaling": scaling}

    @property
    def pins(self) -> dict[int, str]:
        return {1: "supply +", 2: "pulses", 3: "supply −"}


INPUT = InputKind(
    wiring=PulseWiring,
    sensors=(PulseSensor,),
    scalings=(PulseRateScaling,),
    sensor_types={"speed pulses": SensorType("speed", "pulses")},
)
