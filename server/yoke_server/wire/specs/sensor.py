"""What the library knows of a sensor, and the channel that comes of it."""

from typing import Annotated, Literal

from pydantic import Field
from yoke_core.bridge.circuit import Circuit

from yoke_server.common import fields
from yoke_server.wire.specs.base import Spec
from yoke_server.wire.specs.conditioning import BridgeConditioning, FixedConditioning
from yoke_server.wire.specs.scaling import (
    GaugeScaling,
    LoopSpanScaling,
    PlatinumScaling,
    RatedOutputScaling,
    TwoPointScaling,
)
from yoke_server.wire.specs.wiring import (
    BridgeWiring,
    LoopWiring,
    ThermometerWiring,
    VoltageWiring,
)

Wires = Annotated[int, Field(ge=2, le=7)]


class GaugeSensor(Spec):
    """A lot of strain gauges, in the circuit in which they are used."""

    kind: Literal["gauge"] = "gauge"
    circuit: Annotated[Circuit, Field(strict=False)] = Circuit.QUARTER
    wires: Wires = 3
    resistance_ohm: fields.Resistance = 350.0
    gauge_factor: fields.GaugeFactor
    lead_length_m: fields.LeadLength = 6.0

    def channel(self) -> dict[str, Spec]:
        wiring = BridgeWiring(
            circuit=self.circuit, wires=self.wires, resistance_ohm=self.resistance_ohm,
            lead_length_m=self.lead_length_m,
        )  # fmt: skip
        scaling = GaugeScaling(gauge_factor=self.gauge_factor)
        return {"wiring": wiring, "conditioning": BridgeConditioning(), "scaling": scaling}


class RosetteSensor(Spec):
    """Grids on one carrier, each a quarter bridge; ``angles`` (rad) from the first grid."""

    kind: Literal["rosette"] = "rosette"
    angles: Annotated[
        list[Annotated[float, fields.between(-3.15, 3.15)]], Field(min_length=3, max_length=3)
    ]
    wires: Annotated[int, Field(ge=2, le=3)] = 3
    resistance_ohm: fields.Resistance = 350.0
    gauge_factor: fields.GaugeFactor
    lead_length_m: fields.LeadLength = 6.0

    def channel(self) -> dict[str, Spec]:
        """Of one grid."""
        one = GaugeSensor(
            wires=self.wires, resistance_ohm=self.resistance_ohm,
            gauge_factor=self.gauge_factor, lead_length_m=self.lead_length_m,
        )  # fmt: skip
        return one.channel()


class BridgeTransducer(Spec):
    """A load cell, extensometer or other instrument with a bridge inside."""

    kind: Literal["transducer"] = "transducer"
    circuit: Annotated[Circuit, Field(strict=False)] = Circuit.FULL_AXIAL
    wires: Wires = 6
    resistance_ohm: fields.Resistance = 350.0
    rated_output: fields.RatedOutput
    capacity: fields.Capacity
    at_rest: Annotated[float, fields.between(-0.1, 0.1)] | None = None  # V/V without load

    def channel(self) -> dict[str, Spec]:
        wiring = BridgeWiring(
            circuit=self.circuit, wires=self.wires, resistance_ohm=self.resistance_ohm
        )
        scaling = RatedOutputScaling(rated_output=self.rated_output, capacity=self.capacity)
        return {"wiring": wiring, "conditioning": BridgeConditioning(), "scaling": scaling}


class LoopTransmitter(Spec):
    """An instrument with a 4-20 mA output."""

    kind: Literal["loop"] = "loop"
    at_4_ma: fields.Quantity
    at_20_ma: fields.Quantity

    def channel(self) -> dict[str, Spec]:
        scaling = LoopSpanScaling(at_4_ma=self.at_4_ma, at_20_ma=self.at_20_ma)
        return {"wiring": LoopWiring(), "conditioning": FixedConditioning(), "scaling": scaling}


class VoltageOutput(Spec):
    """An instrument with a voltage output, which gives ``full_output`` at its capacity."""

    kind: Literal["voltage"] = "voltage"
    full_output: Annotated[float, fields.between(1e-3, 1000)] = 10.0
    capacity: fields.Capacity

    def channel(self) -> dict[str, Spec]:
        scaling = TwoPointScaling(
            signal_1=0.0, value_1=0.0, signal_2=self.full_output, value_2=self.capacity
        )
        return {"wiring": VoltageWiring(), "conditioning": FixedConditioning(), "scaling": scaling}


class PlatinumSensor(Spec):
    """A platinum resistance thermometer."""

    kind: Literal["platinum"] = "platinum"
    nominal_ohm: fields.Resistance = 100.0
    wires: Annotated[int, Field(ge=3, le=4)] = 3

    def channel(self) -> dict[str, Spec]:
        scaling = PlatinumScaling(nominal_ohm=self.nominal_ohm)
        wiring = ThermometerWiring(wires=self.wires)
        return {"wiring": wiring, "conditioning": FixedConditioning(), "scaling": scaling}


SensorSpec = Annotated[
    GaugeSensor | RosetteSensor | BridgeTransducer | LoopTransmitter | VoltageOutput
    | PlatinumSensor,
    Field(discriminator="kind"),
]  # fmt: skip
