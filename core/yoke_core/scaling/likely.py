"""Whether a figure of a sensor is in character, and which one was likely meant."""

import math

from yoke_core.checks import positive
from yoke_core.errors import ScalingError


def likely_figure(value: float, lowest: float, highest: float) -> float | None:
    """The figure that was likely meant: the same digits with the decimal point elsewhere.

    Parameters
    ----------
    value : float
        As it was given, of either sign.
    lowest, highest : float
        Between which such figures lie, above zero.

    Returns
    -------
    float or None
        None where the value is in character, or where no shift of its point puts it there.

    Raises
    ------
    ScalingError
        Where lowest or highest is not above zero.

    Examples
    --------
    >>> likely_figure(208.0, 1.6, 4.0), likely_figure(2.08, 1.6, 4.0), likely_figure(7.0, 1.6, 4.0)
    (2.08, None, None)
    """
    positive("lowest", lowest, ScalingError)
    positive("highest", highest, ScalingError)
    size = abs(value)
    if not math.isfinite(value) or not size or lowest <= size <= highest:
        return None
    power = round(math.log10(math.sqrt(lowest * highest) / size))  # to about the middle
    meant = float(f"{size * 10.0**power:.12g}")
    return math.copysign(meant, value) if lowest <= meant <= highest else None
