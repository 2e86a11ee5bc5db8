"""What an amplifier completes a bridge with."""

import math

COMPLETIONS = (120.0, 350.0, 1000.0)  # ohm


def usual_completion(resistance_ohm: float) -> float:
    """Of the resistors in an amplifier the one nearest to a sensor's own, by ratio."""
    return min(COMPLETIONS, key=lambda ohm: abs(math.log(ohm / resistance_ohm)))
