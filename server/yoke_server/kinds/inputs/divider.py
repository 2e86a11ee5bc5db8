"""What potentiometers and inductive half bridges have in common."""

from typing import TYPE_CHECKING, ClassVar

from yoke_core.wiring.wiring_case import Mode

from yoke_server.bench.drivers.base import InputSettings
from yoke_server.common.http import fields
from yoke_server.kinds.inputs.base import Measured, Wiring
from yoke_server.kinds.inputs.completion import usual_completion
from yoke_server.kinds.inputs.conditioning import BridgeConditioning, Conditioning

if TYPE_CHECKING:
    from yoke_core.wiring.check import Verdict

WIDEST = 500.0  # mV/V, from end to end of a divider
FULL_SCALE = 0.5  # V/V, the tap at an end
PINS = {1: "excitation +", 4: "tap", 6: "excitation −"}


class Divider(Wiring):
    """Lies between excitation + and −, with a tap to signal −; the other half is the amplifier's.

    The signal is half the excitation less the tap's, over the excitation: it rises as the tap
    goes towards excitation −.
    """

    signal: ClassVar = "bridge ratio"

    resistance_ohm: fields.Resistance

    def settings(self, number: int, conditioning: Conditioning) -> InputSettings | None:
        """The amplifier's half bridge; its completion stays unconnected."""
        if not isinstance(conditioning, BridgeConditioning):
            return None
        return InputSettings(
            number,
            Mode.QUARTER.value,
            usual_completion(self.resistance_ohm),
            conditioning.excitation_v,
            conditioning.range_mv_v,
            conditioning.carrier_hz,
        )

    def check(self, channel: object, measured: Measured) -> "Verdict":
        from yoke_core.wiring.other_signals import check_voltage

        return check_voltage(measured.samples, FULL_SCALE)
