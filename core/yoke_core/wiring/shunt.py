"""Shunt check: what the amplifier's resistor across arm 2 must read, leads and all."""

from yoke_core.checks import positive
from yoke_core.wiring.causes import Sensor, case_of
from yoke_core.wiring.network import output_ratio


def expected_shunt_ratio(sensor: Sensor, shunt_ohm: float) -> float:
    """Output change of a sensor at rest when the amplifier switches its shunt on.

    Parameters
    ----------
    sensor : Sensor
    shunt_ohm : float, ohm, above zero

    Returns
    -------
    float, V/V
        Positive, since lowering arm 2 acts as tension in arm 1.

    Raises
    ------
    CoreError
        Where the shunt's resistance is not above zero.

    Notes
    -----
    The network with its cores is solved, since the shunt sits in the amplifier: across a
    completion it sees no lead, across an arm in the sensor its current flows through the
    signal core. Without leads, and all arms alike: R / (4 Rs + 2 R).

    Examples
    --------
    >>> from yoke_core.bridge.circuit import Circuit
    >>> sensor = Sensor(Circuit.QUARTER, 3, 350.0, 0.0, 350.0, 5.0)
    >>> f"{expected_shunt_ratio(sensor, 100e3):.4e}"
    '8.7347e-04'
    """
    case = case_of(sensor, ())
    shunted = output_ratio(case, positive("shunt_resistance", shunt_ohm))
    return shunted - output_ratio(case)
