"""How a sensor is connected to its input."""

import math
from typing import Annotated, Literal

from pydantic import Field
from yoke_core.bridge.circuit import Circuit, active_arms
from yoke_core.wiring.hookup import Hookup, hookup

from yoke_server.common import fields
from yoke_server.wire.specs.base import Spec

COMPLETIONS = (120.0, 350.0, 1000.0)  # ohm


class BridgeWiring(Spec):
    """Strained arms, cores of the cable, resistance of one arm and of one core."""

    kind: Literal["bridge"] = "bridge"
    circuit: Annotated[Circuit, Field(strict=False)]
    wires: Annotated[int, Field(ge=2, le=7)]
    resistance_ohm: fields.Resistance
    lead_length_m: fields.LeadLength = 6.0
    lead_ohm_per_m: Annotated[float, fields.between(0, 10)] = 0.128

    @property
    def active_arms(self) -> list[int]:
        return list(active_arms(self.circuit))

    @property
    def hookup(self) -> Hookup:
        """Its cores by pin; raises a core error where the circuit needs more of them."""
        return hookup(self.circuit, self.wires)

    @property
    def completion_ohm(self) -> float:
        """What an amplifier completes it with: the usual value nearest to its own."""
        return min(COMPLETIONS, key=lambda ohm: abs(math.log(ohm / self.resistance_ohm)))

    @property
    def lead_ohm(self) -> float:
        """Of one core."""
        return self.lead_length_m * self.lead_ohm_per_m


class LoopWiring(Spec):
    """A 4-20 mA loop, read as the voltage across a precision resistor."""

    kind: Literal["loop"] = "loop"
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
    BridgeWiring | LoopWiring | VoltageWiring | ThermometerWiring | DigitalWiring,
    Field(discriminator="kind"),
]
# What an input must give for a wiring (bench.SignalKind).
SIGNAL_OF = {
    "bridge": "bridge ratio",
    "loop": "voltage",
    "voltage": "voltage",
    "thermometer": "resistance",
    "digital": "value",
}
