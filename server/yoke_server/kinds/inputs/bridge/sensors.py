"""Sensors with a bridge: lots of gauges, rosettes, load cells and other transducers."""

from typing import Annotated, ClassVar, Literal

from pydantic import Field
from yoke_core.bridge.circuit import Circuit
from yoke_core.wiring.wiring_case import wiring_case

from yoke_server.common.http import fields
from yoke_server.kinds.inputs.base import Sensor
from yoke_server.kinds.inputs.bridge.fields import (
    ANGLES,
    AT_REST,
    CIRCUIT,
    GAUGE_FACTOR,
    GRID_AREA,
    LEAD,
    TOLERANCE,
)
from yoke_server.kinds.inputs.bridge.scaling import GaugeScaling
from yoke_server.kinds.inputs.bridge.wiring import BridgeWiring
from yoke_server.kinds.inputs.conditioning import BridgeConditioning
from yoke_server.kinds.scalings.rated_output import RatedOutputScaling
from yoke_server.kinds.spec import Spec
from yoke_server.kinds.text_fields import CAPACITY, RATED_OUTPUT, RESISTANCE, WIRES

Wires = Annotated[int, Field(ge=2, le=7)]
Tolerance = Annotated[float, fields.between(1e-4, 0.2)]  # relative limits
QUARTER_COLOURS = Sensor.usual_colours | {1: "brown", 4: "white", 5: "green"}


class BridgeSensor(Sensor):
    """What all sensors with a bridge have in common."""

    wiring: ClassVar = BridgeWiring

    circuit: Annotated[Circuit, Field(strict=False)] = Circuit.QUARTER
    wires: Wires = 3
    resistance_ohm: fields.Resistance = 350.0

    @property
    def pins(self) -> dict[int, str]:
        return {core.pin: core.function for core in wiring_case(self.circuit, self.wires).cores}

    @property
    def colours(self) -> dict[int, str]:
        return QUARTER_COLOURS if self.circuit is Circuit.QUARTER else self.usual_colours


class GaugeSensor(BridgeSensor):
    """A lot of strain gauges, in the circuit in which they are used."""

    connection: ClassVar = "Strain gauge"
    text_fields: ClassVar = (CIRCUIT, WIRES, RESISTANCE, GAUGE_FACTOR, TOLERANCE, GRID_AREA, LEAD)
    serves: ClassVar = ("strain gauge",)

    kind: Literal["gauge"] = "gauge"
    gauge_factor: fields.GaugeFactor
    gauge_factor_tolerance: Tolerance | None = None
    lead_length_m: fields.LeadLength = 6.0
    grid_area_m2: fields.GridArea | None = None

    @property
    def gain_tolerance(self) -> float | None:
        return self.gauge_factor_tolerance

    def channel(self) -> dict[str, Spec]:
        wiring = BridgeWiring(
            circuit=self.circuit,
            wires=self.wires,
            resistance_ohm=self.resistance_ohm,
            lead_length_m=self.lead_length_m,
            grid_area_m2=self.grid_area_m2,
        )
        scaling = GaugeScaling(gauge_factor=self.gauge_factor)
        return {"wiring": wiring, "conditioning": BridgeConditioning(), "scaling": scaling}


class RosetteSensor(Sensor):
    """Grids on one carrier, each a quarter bridge; ``angles`` (rad) from the first grid."""

    wiring: ClassVar = BridgeWiring
    connection: ClassVar = "Rosette"
    text_fields: ClassVar = (ANGLES, WIRES, RESISTANCE, GAUGE_FACTOR, TOLERANCE, GRID_AREA, LEAD)
    serves: ClassVar = ("rosette",)

    kind: Literal["rosette"] = "rosette"
    angles: Annotated[
        list[Annotated[float, fields.between(-3.15, 3.15)]], Field(min_length=3, max_length=3)
    ]
    wires: Annotated[int, Field(ge=2, le=3)] = 3
    resistance_ohm: fields.Resistance = 350.0
    gauge_factor: fields.GaugeFactor
    gauge_factor_tolerance: Tolerance | None = None
    lead_length_m: fields.LeadLength = 6.0
    grid_area_m2: fields.GridArea | None = None

    @property
    def gain_tolerance(self) -> float | None:
        return self.gauge_factor_tolerance

    @property
    def grid_angles(self) -> list[float]:
        return self.angles

    @property
    def one_grid(self) -> GaugeSensor:
        return GaugeSensor(
            wires=self.wires,
            resistance_ohm=self.resistance_ohm,
            gauge_factor=self.gauge_factor,
            gauge_factor_tolerance=self.gauge_factor_tolerance,
            lead_length_m=self.lead_length_m,
            grid_area_m2=self.grid_area_m2,
        )

    def channel(self) -> dict[str, Spec]:
        """Of one grid."""
        return self.one_grid.channel()

    @property
    def pins(self) -> dict[int, str]:
        return self.one_grid.pins

    @property
    def colours(self) -> dict[int, str]:
        return self.one_grid.colours


class BridgeTransducer(BridgeSensor):
    """A load cell, extensometer or other instrument with a bridge inside."""

    connection: ClassVar = "Bridge"
    text_fields: ClassVar = (CIRCUIT, WIRES, RESISTANCE, RATED_OUTPUT, CAPACITY, AT_REST)
    serves: ClassVar = (
        "load cell",
        "torque sensor",
        "displacement",
        "extensometer",
        "pressure",
        "acceleration",
    )

    kind: Literal["transducer"] = "transducer"
    circuit: Annotated[Circuit, Field(strict=False)] = Circuit.FULL_AXIAL
    wires: Wires = 6
    rated_output: fields.RatedOutput
    capacity: fields.Capacity
    at_rest: Annotated[float, fields.between(-0.1, 0.1)] | None = None  # V/V without load

    def channel(self) -> dict[str, Spec]:
        wiring = BridgeWiring(
            circuit=self.circuit, wires=self.wires, resistance_ohm=self.resistance_ohm
        )
        scaling = RatedOutputScaling(rated_output=self.rated_output, capacity=self.capacity)
        return {"wiring": wiring, "conditioning": BridgeConditioning(), "scaling": scaling}

    def output_at_capacity(self, slope: float) -> float:
        return self.capacity / slope

    def with_rated_output(self, rated_output: float) -> "BridgeTransducer":
        return self.model_copy(update={"rated_output": rated_output})
