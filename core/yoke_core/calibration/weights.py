"""Forces of weights where they are used."""

import math

from yoke_core.checks import positive
from yoke_core.errors import CalibrationError

AIR = 1.2  # kg/m^3, conventional
STEEL = 7850.0  # kg/m^3
CONVENTIONAL = 8000.0  # kg/m^3, of the conventional mass that certificates state
STANDARD_GRAVITY = 9.80665  # m/s^2


def local_gravity(latitude: float, altitude: float = 0.0) -> float:
    """Acceleration of free fall at a place, as far as latitude and height tell it.

    Parameters
    ----------
    latitude : float, degrees
        Of either sign, within 90.
    altitude : float, m
        Above the sea.

    Returns
    -------
    float, m/s^2

    Raises
    ------
    CalibrationError
        For a place that is not on the earth.

    Notes
    -----
    Source: normal gravity of the Geodetic Reference System 1980 (Somigliana) with its free-air
    gradient of second order. What rock beneath adds, some 1e-5 to 1e-4 of it, is not in it.

    Examples
    --------
    >>> round(local_gravity(45.0), 4), round(local_gravity(0.0), 5)
    (9.8062, 9.78033)
    """
    if not (abs(latitude) <= 90 and -500 <= altitude <= 9000):
        raise CalibrationError(
            "latitude", "No such place: a latitude within 90°, a height of -500 to 9000 m."
        )
    square = math.sin(math.radians(latitude)) ** 2
    normal = 9.7803267715 * (1 + 0.001931851353 * square) / math.sqrt(1 - 0.0066943800229 * square)
    return normal * (
        1
        - 2 * (1.00335281 + 0.00344978 - 2 * 0.00335281 * square) * altitude / 6378137.0
        + 3 * (altitude / 6378137.0) ** 2
    )


def force_of_weight(
    mass: float, gravity: float, density: float = CONVENTIONAL, air: float = AIR
) -> float:
    """The force of a weight that hangs in air.

    Parameters
    ----------
    mass : float, kg
        Its conventional mass, as its certificate states it, with the density 8000 kg/m^3; its
        true mass with the density that it has.
    gravity : float, m/s^2
        Where it hangs.
    density, air : float, kg/m^3

    Returns
    -------
    float, N

    Raises
    ------
    CalibrationError
        For a mass, gravity or density that is not above zero, or air as dense as the weight.

    Notes
    -----
    Source: ISO 376:2011, annex A; OIML D 28 (conventional mass).

    Examples
    --------
    >>> round(force_of_weight(100.0, 9.80665), 3)
    980.518
    """
    for name, value in (("mass", mass), ("gravity", gravity), ("density", density)):
        positive(name, value, CalibrationError)
    if not 0 <= air < density:
        raise CalibrationError("air", "Air is lighter than the weight that hangs in it.")
    return mass * gravity * (1 - air / density)
