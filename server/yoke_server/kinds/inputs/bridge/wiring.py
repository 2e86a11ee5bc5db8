"""A bridge: strained arms, cores of the cable, resistance of one arm and of one core."""

from typing import TYPE_CHECKING, Annotated, Any, ClassVar, Literal

from pydantic import Field
from yoke_core.bridge.circuit import Circuit, RestingBridge, active_arms, resting_bridge
from yoke_core.bridge.heating import Substrate
from yoke_core.errors import CoreError
from yoke_core.wiring.causes import Sensor as CheckedSensor
from yoke_core.wiring.wiring_case import (
    E_MINUS,
    E_PLUS,
    S_MINUS,
    S_PLUS,
    Mode,
    WiringCase,
    wiring_case,
)

from yoke_server.bench.drivers.base import InputSettings
from yoke_server.common.http import fields
from yoke_server.kinds.inputs.base import HeatedGrid, Measured, Wiring
from yoke_server.kinds.inputs.bridge.scaling import GaugeScaling
from yoke_server.kinds.inputs.completion import usual_completion
from yoke_server.kinds.inputs.conditioning import BridgeConditioning, Conditioning
from yoke_server.kinds.scalings import BY_POINTS
from yoke_server.kinds.scalings.rated_output import RatedOutputScaling
from yoke_server.kinds.scalings.stated_output import StatedOutputScaling

if TYPE_CHECKING:
    from yoke_core.wiring.check import Verdict

CIRCUIT_WORDS = {
    Circuit.QUARTER: "quarter bridge",
    Circuit.HALF_BENDING: "half bridge, bending pair",
    Circuit.HALF_POISSON: "half bridge, Poisson pair",
    Circuit.HALF_OPPOSITE: "half bridge, opposite arms",
    Circuit.FULL_BENDING: "full bridge",
    Circuit.FULL_BENDING_POISSON: "full bridge, bending with Poisson",
    Circuit.FULL_AXIAL: "full bridge",
    Circuit.FULL_TORSION: "full bridge, torsion",
}
# Which two cores turn a bridge when they change places; of a quarter bridge none do.
TURNING_PINS = {
    Mode.FULL: (S_PLUS, S_MINUS),
    Mode.OPPOSITE: (S_PLUS, S_MINUS),
    Mode.HALF: (E_PLUS, E_MINUS),
}


class BridgeWiring(Wiring):
    """Strained arms, cores of the cable, resistance of one arm and of one core.

    Of gauges also the area of a grid, and what it is bonded to: both say how warm it gets.
    """

    signal: ClassVar = "bridge ratio"
    scalings: ClassVar = (
        GaugeScaling,
        RatedOutputScaling,
        StatedOutputScaling,
        *BY_POINTS,
    )
    zeroes_signal: ClassVar = True
    has_shunt: ClassVar = True
    is_probed: ClassVar = True

    kind: Literal["bridge"] = "bridge"
    circuit: Annotated[Circuit, Field(strict=False)]
    wires: Annotated[int, Field(ge=2, le=7)]
    resistance_ohm: fields.Resistance
    lead_length_m: fields.LeadLength = 6.0
    lead_ohm_per_m: Annotated[float, fields.between(0, 10)] = 0.128
    grid_area_m2: fields.GridArea | None = None
    ground: Annotated[Substrate, Field(strict=False)] | None = None

    @property
    def connection(self) -> str:
        return f"{CIRCUIT_WORDS[self.circuit]}, {self.wires}-wire"

    @property
    def connection_short(self) -> str:
        return f"{self.circuit.split('_')[0]}, {self.wires}-wire"

    @property
    def active_arms(self) -> list[int]:
        return list(active_arms(self.circuit))

    @property
    def wiring_case(self) -> WiringCase:
        """Its cores by pin; raises a core error where the circuit needs more of them."""
        return wiring_case(self.circuit, self.wires)

    @property
    def completion(self) -> float:
        return usual_completion(self.resistance_ohm)

    def resting(self, *, with_leads: bool) -> RestingBridge:
        """With its completion, and with its leads or as if it had none."""
        lead = self.lead_ohm if with_leads else 0.0
        return resting_bridge(self.circuit, self.wires, lead, self.resistance_ohm, self.completion)

    @property
    def completes_arm_2(self) -> bool:
        return self.circuit is Circuit.QUARTER

    @property
    def lead_ohm(self) -> float:
        """Of one core."""
        return self.lead_length_m * self.lead_ohm_per_m

    @property
    def heated_grid(self) -> HeatedGrid | None:
        if self.grid_area_m2 is None:
            return None
        return HeatedGrid(self.resistance_ohm, self.grid_area_m2, self.ground)

    @property
    def turning_pins(self) -> tuple[int, ...]:
        try:
            return TURNING_PINS.get(self.wiring_case.mode, ())
        except CoreError:  # with fewer cores than it needs: nothing can be said of them
            return ()

    def settings(self, number: int, conditioning: Conditioning) -> InputSettings | None:
        if not isinstance(conditioning, BridgeConditioning):
            return None
        return InputSettings(
            number,
            self.wiring_case.mode.value,
            self.completion,
            conditioning.excitation_v,
            conditioning.range_mv_v,
            conditioning.carrier_hz,
            conditioning.balance,
        )

    def shunt_sensor(self, conditioning: Conditioning) -> CheckedSensor | None:
        """As checks of its wiring and of its shunt take it."""
        if not isinstance(conditioning, BridgeConditioning):
            return None
        return CheckedSensor(
            self.circuit,
            self.wires,
            self.resistance_ohm,
            self.lead_ohm,
            self.completion,
            conditioning.excitation_v,
        )

    def check(self, channel: Any, measured: Measured) -> "Verdict":
        from yoke_core.wiring.check import check

        sensor = self.shunt_sensor(channel.conditioning)
        if sensor is None or measured.probe is None:
            return super().check(channel, measured)
        reach, rest = channel.conditioning.reach, measured.at_rest
        if rest is not None:  # as it is sampled
            rest -= channel.conditioning.balance
        return check(sensor, measured.probe, measured.samples, reach, rest)

    def facts(self, conditioning: Conditioning) -> list[tuple[str, str]]:
        whole = self.circuit.startswith("full")  # nothing is left for the amplifier to complete
        completed = "" if whole else f", completed with {self.completion:g} Ω"
        share = self.lead_ohm / self.resistance_ohm
        found = [
            ("Circuit", f"{self.circuit.replace('_', ' ')}, {self.wires} cores"),
            ("Resistance", f"{self.resistance_ohm:g} Ω{completed}"),
            (
                "Lead",
                f"{self.lead_length_m:g} m, {self.lead_ohm:.2f} Ω a core, "
                f"{share:.2%} of the resistance",
            ),
        ]
        if self.ground:
            found.append(("Bonded to", self.ground.value))
        if isinstance(conditioning, BridgeConditioning):
            excitation = f"{conditioning.excitation_v:g} V, range {conditioning.range_words}"
            found.append(("Excitation", excitation))
            if conditioning.balance:
                found.append(("Balanced by", f"{conditioning.balance * 1e3:.4f} mV/V"))
        return found
