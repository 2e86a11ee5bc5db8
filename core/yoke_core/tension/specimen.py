"""Flat specimens: section, stress and strain."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import ArrayLike, NDArray

from yoke_core.checks import positive
from yoke_core.errors import TensionError


@dataclass(frozen=True, slots=True)
class FlatSpecimen:
    """A flat coupon; lengths in m. Raises `TensionError` for a length not above zero."""

    width: float
    thickness: float
    gauge_length: float

    def __post_init__(self) -> None:
        for name in ("width", "thickness", "gauge_length"):
            positive(name, getattr(self, name), TensionError)

    @property
    def section(self) -> float:
        """Original section So, m^2."""
        return self.width * self.thickness

    def stress(self, force: ArrayLike) -> NDArray[np.float64]:
        """Engineering stress, Pa, tension positive, from force in N (ISO 6892-1, 3.10)."""
        return np.asarray(force, dtype=float) / self.section

    def strain(self, extension: ArrayLike) -> NDArray[np.float64]:
        """Engineering strain, m/m, from extension in m over the gauge length."""
        return np.asarray(extension, dtype=float) / self.gauge_length
