"""The room in which the benches stand."""

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
REFERENCE_C = 22.0


def room_celsius(seconds: Array) -> Array:
    """It warms and cools by half a degree in ten minutes."""
    return np.asarray(REFERENCE_C + 0.5 * np.sin(2 * np.pi * seconds / 600))
