"""What the library knows of a sensor, and the channel that comes of it."""

from typing import Annotated, ClassVar, Literal, get_args

from pydantic import Field
from yoke_core.bridge.circuit import Circuit

from yoke_server.common import fields
from yoke_server.wire.specs.base import Spec
from yoke_server.wire.specs.conditioning import BridgeConditioning, FixedConditioning
from yoke_server.wire.specs.scaling import (
    AsReadScaling,
    GaugeScaling,
    LoopSpanScaling,
    PlatinumScaling,
    PulseRateScaling,
    RatedOutputScaling,
    TwoPointScaling,
)
from yoke_server.wire.specs.wiring import (
    SIGNAL_OF,
    BridgeWiring,
    DigitalWiring,
    InductiveWiring,
    LoopWiring,
    PotentiometerWiring,
    PulseWiring,
    ThermometerWiring,
    VoltageWiring,
)

WIDEST = 500.0  # mV/V, from end to end of a divider
CARRIER = 4800.0  # Hz
Wires = Annotated[int, Field(ge=2, le=7)]


class SensorBase(Spec):
    """What every sensor of the library answers."""

    @property
    def grid_angles(self) -> list[float]:
        """Angles (rad) of a rosette's grids, each of which takes an input; none of others."""
        return []


class GaugeSensor(SensorBase):
    """A lot of strain gauges, in the circuit in which they are used."""

    wired_as: ClassVar = "bridge"

    kind: Literal["gauge"] = "gauge"
    circuit: Annotated[Circuit, Field(strict=False)] = Circuit.QUARTER
    wires: Wires = 3
    resistance_ohm: fields.Resistance = 350.0
    gauge_factor: fields.GaugeFactor
    lead_length_m: fields.LeadLength = 6.0
    grid_area_m2: fields.GridArea | None = None

    def channel(self) -> dict[str, Spec]:
        wiring = BridgeWiring(
            circuit=self.circuit, wires=self.wires, resistance_ohm=self.resistance_ohm,
            lead_length_m=self.lead_length_m, grid_area_m2=self.grid_area_m2,
        )  # fmt: skip
        scaling = GaugeScaling(gauge_factor=self.gauge_factor)
        return {"wiring": wiring, "conditioning": BridgeConditioning(), "scaling": scaling}


class RosetteSensor(SensorBase):
    """Grids on one carrier, each a quarter bridge; ``angles`` (rad) from the first grid."""

    wired_as: ClassVar = "bridge"

    kind: Literal["rosette"] = "rosette"
    angles: Annotated[
        list[Annotated[float, fields.between(-3.15, 3.15)]], Field(min_length=3, max_length=3)
    ]
    wires: Annotated[int, Field(ge=2, le=3)] = 3
    resistance_ohm: fields.Resistance = 350.0
    gauge_factor: fields.GaugeFactor
    lead_length_m: fields.LeadLength = 6.0
    grid_area_m2: fields.GridArea | None = None

    @property
    def grid_angles(self) -> list[float]:
        return self.angles

    def channel(self) -> dict[str, Spec]:
        """Of one grid."""
        one = GaugeSensor(
            wires=self.wires, resistance_ohm=self.resistance_ohm,
            gauge_factor=self.gauge_factor, lead_length_m=self.lead_length_m,
            grid_area_m2=self.grid_area_m2,
        )  # fmt: skip
        return one.channel()


class BridgeTransducer(SensorBase):
    """A load cell, extensometer or other instrument with a bridge inside."""

    wired_as: ClassVar = "bridge"

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


class LoopTransmitter(SensorBase):
    """An instrument with a 4-20 mA output."""

    wired_as: ClassVar = "loop"

    kind: Literal["loop"] = "loop"
    at_4_ma: fields.Quantity
    at_20_ma: fields.Quantity
    wires: Annotated[int, Field(ge=2, le=3)] = 2

    def channel(self) -> dict[str, Spec]:
        scaling = LoopSpanScaling(at_4_ma=self.at_4_ma, at_20_ma=self.at_20_ma)
        return {
            "wiring": LoopWiring(wires=self.wires),
            "conditioning": FixedConditioning(),
            "scaling": scaling,
        }


class Potentiometer(SensorBase):
    """A resistance with a wiper that goes from end to end over its travel."""

    wired_as: ClassVar = "potentiometer"

    kind: Literal["potentiometer"] = "potentiometer"
    resistance_ohm: fields.Resistance = 5000.0
    capacity: fields.Capacity

    def channel(self) -> dict[str, Spec]:
        wiring = PotentiometerWiring(resistance_ohm=self.resistance_ohm)
        scaling = TwoPointScaling(signal_1=-0.5, value_1=0.0, signal_2=0.5, value_2=self.capacity)
        conditioning = BridgeConditioning(excitation_v=2.5, range_mv_v=WIDEST)
        return {"wiring": wiring, "conditioning": conditioning, "scaling": scaling}


class InductiveHalf(SensorBase):
    """A half-bridge LVDT: two coils about a core; its output at capacity, of either sign."""

    wired_as: ClassVar = "inductive_half"

    kind: Literal["inductive_half"] = "inductive_half"
    resistance_ohm: fields.Resistance = 350.0
    rated_output: fields.RatedOutput
    capacity: fields.Capacity

    def channel(self) -> dict[str, Spec]:
        wiring = InductiveWiring(resistance_ohm=self.resistance_ohm)
        scaling = RatedOutputScaling(rated_output=self.rated_output, capacity=self.capacity)
        conditioning = BridgeConditioning(excitation_v=2.5, range_mv_v=WIDEST, carrier_hz=CARRIER)
        return {"wiring": wiring, "conditioning": conditioning, "scaling": scaling}


class PulseSensor(SensorBase):
    """A pick-up that gives so many pulses a turn."""

    wired_as: ClassVar = "pulses"

    kind: Literal["pulses"] = "pulses"
    pulses_per_turn: Annotated[int, Field(ge=1, le=100_000)]

    def channel(self) -> dict[str, Spec]:
        scaling = PulseRateScaling(pulses_per_turn=self.pulses_per_turn)
        return {"wiring": PulseWiring(), "conditioning": FixedConditioning(), "scaling": scaling}


class VoltageOutput(SensorBase):
    """An instrument with a voltage output, which gives ``full_output`` at its capacity."""

    wired_as: ClassVar = "voltage"

    kind: Literal["voltage"] = "voltage"
    full_output: Annotated[float, fields.between(1e-3, 1000)] = 10.0
    capacity: fields.Capacity

    def channel(self) -> dict[str, Spec]:
        scaling = TwoPointScaling(
            signal_1=0.0, value_1=0.0, signal_2=self.full_output, value_2=self.capacity
        )
        return {"wiring": VoltageWiring(), "conditioning": FixedConditioning(), "scaling": scaling}


class PlatinumSensor(SensorBase):
    """A platinum resistance thermometer."""

    wired_as: ClassVar = "thermometer"

    kind: Literal["platinum"] = "platinum"
    nominal_ohm: fields.Resistance = 100.0
    wires: Annotated[int, Field(ge=3, le=4)] = 3

    def channel(self) -> dict[str, Spec]:
        scaling = PlatinumScaling(nominal_ohm=self.nominal_ohm)
        wiring = ThermometerWiring(wires=self.wires)
        return {"wiring": wiring, "conditioning": FixedConditioning(), "scaling": scaling}


class DigitalOutput(SensorBase):
    """An instrument that gives numbers ready made; ``factor`` is SI for each one of them."""

    wired_as: ClassVar = "digital"

    kind: Literal["digital"] = "digital"
    factor: Annotated[float, fields.between(1e-12, 1e12)] = 1.0

    def channel(self) -> dict[str, Spec]:
        scaling = AsReadScaling(factor=self.factor)
        return {"wiring": DigitalWiring(), "conditioning": FixedConditioning(), "scaling": scaling}


SensorSpec = Annotated[
    GaugeSensor | RosetteSensor | BridgeTransducer | Potentiometer | InductiveHalf
    | LoopTransmitter | VoltageOutput | PlatinumSensor | PulseSensor | DigitalOutput,
    Field(discriminator="kind"),
]  # fmt: skip


def kinds_giving(signal: str) -> list[str]:
    """Kinds of specs whose sensors an input for that signal measures."""
    specs = get_args(get_args(SensorSpec)[0])
    return [s.model_fields["kind"].default for s in specs if SIGNAL_OF[s.wired_as] == signal]
