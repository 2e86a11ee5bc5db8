"""Small checks shared by the core's public functions."""

import math

from yoke_core.errors import CoreError


def positive(argument: str, value: float, error: type[CoreError] = CoreError) -> float:
    """A value as float, if it is finite and above zero.

    Parameters
    ----------
    argument : str
        Its name, for the error.
    value : float
    error : type of CoreError

    Returns
    -------
    float

    Raises
    ------
    CoreError
        Of the type ``error``, naming the argument.

    Examples
    --------
    >>> positive("area", 2)
    2.0
    """
    if not (math.isfinite(value) and value > 0):
        words = argument.replace("_", " ")
        raise error(
            argument, f"The {words} must be above zero, not {value:g}.", f"Give the {words} anew."
        )
    return float(value)
