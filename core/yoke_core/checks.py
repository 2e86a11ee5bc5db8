"""Small checks shared by the core's public functions."""

import math

from yoke_core.errors import CoreError


def positive(argument: str, value: float, error: type[CoreError] = CoreError) -> float:
    """Return ``value`` as float; raise ``error`` unless it is finite and above zero."""
    if not (math.isfinite(value) and value > 0):
        words = argument.replace("_", " ")
        raise error(
            argument, f"The {words} must be above zero, not {value:g}.", f"Give the {words} anew."
        )
    return float(value)
