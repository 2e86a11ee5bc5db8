"""Specimens: section, stress and strain."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from yoke_core.checks import positive
from yoke_core.errors import TensionError


@dataclass(frozen=True, slots=True)
class Specimen:
    """A piece under tension: original section So in m^2, gauge length in m.

    Raises `TensionError` for one that is not above zero.
    """

    section: float
    gauge_length: float

    def __post_init__(self) -> None:
        for name in ("section", "gauge_length"):
            positive(name, getattr(self, name), TensionError)

    def stress(self, force: ArrayLike) -> NDArray[np.float64]:
        """Engineering stress, Pa, tension positive, from force in N (ISO 6892-1, 3.10)."""
        return np.asarray(force, dtype=float) / self.section

    def strain(self, extension: ArrayLike) -> NDArray[np.float64]:
        """Engineering strain, m/m, from extension in m over the gauge length."""
        return np.asarray(extension, dtype=float) / self.gauge_length
