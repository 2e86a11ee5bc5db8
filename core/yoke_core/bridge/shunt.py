"""Shunt check: what a known resistor across one arm must read."""

from yoke_core.checks import positive


def expected_shunt_ratio(arm_resistance: float, shunt_resistance: float) -> float:
    """Output change (V/V) when ``shunt_resistance`` is put across arm 4 of an even bridge.

    Parameters
    ----------
    arm_resistance, shunt_resistance : float, ohm

    Returns
    -------
    float
        Positive, since lowering arm 4 acts as tension in arm 1.

    Notes
    -----
    Exact: R / (4 Rs + 2 R), from dR/R = -R/(R + Rs) in one arm.
    Source: Hoffmann, An Introduction to Measurements using Strain Gages.
    """
    r = positive("arm_resistance", arm_resistance)
    return r / (4.0 * positive("shunt_resistance", shunt_resistance) + 2.0 * r)
