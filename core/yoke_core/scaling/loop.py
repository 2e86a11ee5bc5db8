"""Current loops of 4 to 20 mA, read as the voltage across a precision resistor."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from yoke_core.checks import positive
from yoke_core.errors import ScalingError
from yoke_core.scaling.line import Line

Array = NDArray[np.float64]
LOW, HIGH = 4e-3, 20e-3  # A, the ends of the span
MIN_CURRENT, MAX_CURRENT = 3.6e-3, 21e-3  # A; beyond them the transmitter tells of a fault


@dataclass(frozen=True, slots=True)
class LoopCurrent:
    """Loop current (A) from the voltage (V) across ``resistor_ohm``.

    No number (NaN) below 3.6 mA, where the loop is broken or its transmitter ill, and above
    21 mA. Source: NAMUR NE 43.
    """

    resistor_ohm: float

    def __post_init__(self) -> None:
        positive("resistor_ohm", self.resistor_ohm, ScalingError)

    @property
    def direction(self) -> int:
        return 1

    def apply(self, voltage: ArrayLike) -> Array:
        current = np.asarray(voltage, dtype=float) / self.resistor_ohm
        sound = ((current >= MIN_CURRENT) & (current <= MAX_CURRENT)) | np.isinf(current)
        return np.where(sound, current, np.nan)


def loop_span(at_4_ma: float, at_20_ma: float) -> Line:
    """The line from a loop's current to the quantity.

    Parameters
    ----------
    at_4_ma, at_20_ma : float, SI of the quantity

    Returns
    -------
    Line
        Of the current in A.

    Raises
    ------
    ScalingError
        If the quantity is the same at both ends.

    Examples
    --------
    >>> round(float(loop_span(0.0, 10e5).apply(12e-3)))
    500000
    """
    if at_4_ma == at_20_ma:
        raise ScalingError(
            "at_20_ma",
            "The span is the same at 4 and at 20 mA, so the channel would always read that.",
            "Give another value at 20 mA.",
        )
    slope = (at_20_ma - at_4_ma) / (HIGH - LOW)
    return Line(slope, at_4_ma - slope * LOW)
