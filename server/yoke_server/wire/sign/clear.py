"""Whether a reading moved clearly in one direction while the part was loaded by hand."""

from yoke_server.common.units import factor

CLEAR = 8.0  # deviations of the reading that a change must exceed
DIGITS = 3  # last digits shown, likewise


def smallest(unit: str, decimals: int) -> float:
    """The least change that counts of a channel shown so, SI of its quantity."""
    return DIGITS * 10.0**-decimals * abs(factor(unit))


def is_clear(moved: float, deviation: float, unit: str, decimals: int) -> bool:
    return abs(moved) > max(CLEAR * deviation, smallest(unit, decimals))
