"""Shunt check: what a known resistor across one arm must read, leads and all."""

from dataclasses import dataclass

from yoke_core.checks import positive
from yoke_core.wiring.causes import Sensor, case_of
from yoke_core.wiring.network import CORNERS_OF_ARM, OWN_HALF, Branch, Case, output_ratio
from yoke_core.wiring.wiring_case import (
    COMPLETION,
    E_MINUS,
    E_PLUS,
    S_MINUS,
    S_PLUS,
    Mode,
    WiringError,
)

OWN_ARM = 2  # across which an amplifier switches its own resistor


@dataclass(frozen=True, slots=True)
class ShuntResistor:
    """A resistor in parallel with one arm of a bridge.

    resistance_ohm : float, ohm, above zero
    arm : from 1 to 4
    at_sensor : across the arm itself; else across its pins at the amplifier
    """

    resistance_ohm: float
    arm: int = OWN_ARM
    at_sensor: bool = False


def expected_shunt_ratio(sensor: Sensor, shunt: ShuntResistor) -> float:
    """Output change of a sensor at rest when a shunt is put on.

    Parameters
    ----------
    sensor : Sensor
    shunt : ShuntResistor

    Returns
    -------
    float, V/V
        Positive across arms 2 and 4, since lowering them acts as tension in arm 1; negative
        across arms 1 and 3.

    Raises
    ------
    CoreError
        Where the shunt's resistance is not above zero, and where nothing can be put across the
        arm: it is inside the amplifier, or not in the sensor.

    Notes
    -----
    The network with its cores is solved, since it matters on which side of them the shunt lies:
    at the sensor none of its current flows through them; across a completion in the amplifier
    it sees no lead at all. Without leads, and all arms alike: R / (4 Rs + 2 R).

    Examples
    --------
    >>> from yoke_core.bridge.circuit import Circuit
    >>> sensor = Sensor(Circuit.QUARTER, 3, 350.0, 0.0, 350.0, 5.0)
    >>> f"{expected_shunt_ratio(sensor, ShuntResistor(100e3)):.4e}"
    '8.7347e-04'
    >>> f"{expected_shunt_ratio(sensor, ShuntResistor(100e3, arm=1, at_sensor=True)):.4e}"
    '-8.7347e-04'
    """
    case = case_of(sensor, ())
    ohm = positive("shunt_resistance", shunt.resistance_ohm)
    branch: Branch = (*_ends(case, shunt), ohm)
    return output_ratio(case, branch) - output_ratio(case)


def _ends(case: Case, shunt: ShuntResistor) -> tuple[str, str]:
    if shunt.at_sensor:
        if shunt.arm not in case.wiring_case.arms:
            arms = ", ".join(map(str, case.wiring_case.arms))
            raise WiringError(
                "shunt_arm",
                f"Arm {shunt.arm} is not at the sensor.",
                f"Put the resistor across arm {arms}, or at the amplifier.",
            )
        return CORNERS_OF_ARM[shunt.arm]
    ends = _pins(case.mode, shunt.arm)
    if ends is None:
        raise WiringError(
            "shunt_arm",
            f"Arm {shunt.arm} lies inside the amplifier: no pins lead to its ends.",
            "Put the resistor across arm 1 or 2.",
        )
    return f"p{ends[0]}", f"p{ends[1]}"


def _pins(mode: Mode, arm: int) -> tuple[int, int] | None:
    """Between which pins of the plug an arm can be reached."""
    if mode in OWN_HALF and arm in (3, 4):
        return None
    if mode is Mode.QUARTER and arm == OWN_ARM:
        return COMPLETION, E_MINUS
    return PINS_OF_ARM[arm]


PINS_OF_ARM = {
    1: (E_PLUS, S_MINUS),
    2: (S_MINUS, E_MINUS),
    3: (S_PLUS, E_MINUS),
    4: (E_PLUS, S_PLUS),
}
