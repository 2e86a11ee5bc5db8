"""How a sensor is connected to its input."""

import math
from typing import Annotated, Literal

from pydantic import Field
from yoke_core.bridge.circuit import Circuit, RestingBridge, active_arms, resting_bridge
from yoke_core.bridge.heating import Substrate
from yoke_core.wiring.causes import Sensor
from yoke_core.wiring.wiring_case import Mode, WiringCase, wiring_case

from yoke_server.common import fields
from yoke_server.wire.specs.base import Spec

COMPLETIONS = (120.0, 350.0, 1000.0)  # ohm


def usual_completion(resistance_ohm: float) -> float:
    """Of the resistors in an amplifier the one nearest to a sensor's own, by ratio."""
    return min(COMPLETIONS, key=lambda ohm: abs(math.log(ohm / resistance_ohm)))


class BridgeWiring(Spec):
    """Strained arms, cores of the cable, resistance of one arm and of one core.

    Of gauges also the area of a grid, and what it is bonded to: both say how warm it gets.
    """

    kind: Literal["bridge"] = "bridge"
    circuit: Annotated[Circuit, Field(strict=False)]
    wires: Annotated[int, Field(ge=2, le=7)]
    resistance_ohm: fields.Resistance
    lead_length_m: fields.LeadLength = 6.0
    lead_ohm_per_m: Annotated[float, fields.between(0, 10)] = 0.128
    grid_area_m2: fields.GridArea | None = None
    ground: Annotated[Substrate, Field(strict=False)] | None = None

    @property
    def active_arms(self) -> list[int]:
        return list(active_arms(self.circuit))

    @property
    def wiring_case(self) -> WiringCase:
        """Its cores by pin; raises a core error where the circuit needs more of them."""
        return wiring_case(self.circuit, self.wires)

    @property
    def mode(self) -> Mode:
        """What the amplifier completes of it."""
        return self.wiring_case.mode

    def sensor(self, excitation_v: float) -> Sensor:
        """As checks of its wiring and of its shunt take it."""
        return Sensor(
            self.circuit, self.wires, self.resistance_ohm, self.lead_ohm, self.completion_ohm,
            excitation_v,
        )  # fmt: skip

    @property
    def resting(self) -> RestingBridge:
        """With its leads and completion."""
        return resting_bridge(
            self.circuit, self.wires, self.lead_ohm, self.resistance_ohm, self.completion_ohm
        )

    @property
    def completion_ohm(self) -> float:
        """What an amplifier completes it with."""
        return usual_completion(self.resistance_ohm)

    @property
    def lead_ohm(self) -> float:
        """Of one core."""
        return self.lead_length_m * self.lead_ohm_per_m


class Divider(Spec):
    """Lies between excitation + and −, with a tap to signal −; the other half is the amplifier's.

    The signal is half the excitation less the tap's, over the excitation: it rises as the tap
    goes towards excitation −.
    """

    resistance_ohm: fields.Resistance

    @property
    def mode(self) -> Mode:
        return Mode.QUARTER  # the amplifier's half bridge; its completion stays unconnected

    @property
    def completion_ohm(self) -> float:
        return usual_completion(self.resistance_ohm)


class PotentiometerWiring(Divider):
    """A resistance with a wiper."""

    kind: Literal["potentiometer"] = "potentiometer"


class InductiveWiring(Divider):
    """Two coils about a core that moves (half-bridge LVDT); it needs a carrier."""

    kind: Literal["inductive_half"] = "inductive_half"


class PulseWiring(Spec):
    """Pulses that are counted, from a pick-up that the device supplies."""

    kind: Literal["pulses"] = "pulses"


class LoopWiring(Spec):
    """A 4-20 mA loop, read as the voltage across a precision resistor.

    With two cores the loop supplies the transmitter, with three it has a supply of its own.
    """

    kind: Literal["loop"] = "loop"
    wires: Annotated[int, Field(ge=2, le=3)] = 2
    resistor_ohm: Annotated[float, fields.between(1, 1000)] = 50.0


class VoltageWiring(Spec):
    """A voltage between two pins."""

    kind: Literal["voltage"] = "voltage"


class ThermometerWiring(Spec):
    """A resistance thermometer; with three wires the device takes the lead off itself."""

    kind: Literal["thermometer"] = "thermometer"
    wires: Annotated[int, Field(ge=3, le=4)] = 3


class DigitalWiring(Spec):
    """Numbers that come ready made, as out of a file."""

    kind: Literal["digital"] = "digital"


WiringSpec = Annotated[
    BridgeWiring
    | PotentiometerWiring
    | InductiveWiring
    | LoopWiring
    | VoltageWiring
    | ThermometerWiring
    | PulseWiring
    | DigitalWiring,
    Field(discriminator="kind"),
]
# What an input must give for a wiring (bench.SignalKind).
SIGNAL_OF = {
    "bridge": "bridge ratio",
    "potentiometer": "bridge ratio",
    "inductive_half": "bridge ratio",
    "pulses": "frequency",
    "loop": "voltage",
    "voltage": "voltage",
    "thermometer": "resistance",
    "digital": "value",
}
