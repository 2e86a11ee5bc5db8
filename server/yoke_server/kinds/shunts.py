"""The resistor that a shunt check puts across an arm of a bridge."""

from typing import Annotated, Literal

from yoke_core.wiring.shunt import ShuntResistor as CheckedShunt

from yoke_server.common.http import fields
from yoke_server.kinds.inputs.base import Wiring
from yoke_server.kinds.spec import Part

Arm = Literal[1, 2, 3, 4]
MIN_OHM, MAX_OHM = 1.0, 1e8


class ShuntResistor(Part):
    """Its resistance, and what it lies across: an arm at the sensor, or its pins at the amplifier.

    own : the amplifier switches it itself
    """

    resistance_ohm: Annotated[float, fields.between(MIN_OHM, MAX_OHM)]
    arm: Arm = 2
    at_sensor: bool = False
    own: bool = False

    @property
    def words(self) -> str:
        whose = "the amplifier's own" if self.own else "an external"
        where = "sensor" if self.at_sensor else "amplifier"
        ohm = self.resistance_ohm
        size = f"{ohm / 1e3:g} kΩ" if ohm >= 1e3 else f"{ohm:g} Ω"
        return f"{whose} {size} across arm {self.arm} at the {where}"

    @property
    def checked(self) -> CheckedShunt:
        """As the core takes it."""
        return CheckedShunt(self.resistance_ohm, self.arm, self.at_sensor)

    def acts_as_signal(self, wiring: Wiring) -> bool:
        """Whether leads make of its step what they make of the signal.

        At the amplifier only across the completion of a quarter bridge: elsewhere its own current
        flows through the cores.
        """
        return self.at_sensor or (self.arm == 2 and wiring.completes_arm_2)
