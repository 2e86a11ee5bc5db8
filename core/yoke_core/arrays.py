"""Array types shared by modules that must not load the compiler."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

Signals = NDArray[np.floating[Any]]  # float32, or float64 where that does not hold each digit
