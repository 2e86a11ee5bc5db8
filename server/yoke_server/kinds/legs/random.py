from functools import lru_cache
from itertools import pairwise
from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, field_validator
from pydantic_core import PydanticCustomError

from yoke_server.common.http import fields
from yoke_server.kinds.actions import Force
from yoke_server.kinds.legs.played import PlayedLeg
from yoke_server.kinds.spec import Part

PER_CYCLE = 8  # points of the highest frequency
MAX_PERIOD = 4096  # points, after which the force repeats itself
MAX_SECONDS = 1e6


class SpectrumPoint(Part):
    """A frequency (Hz) and the power density there (N²/Hz)."""

    hz: Annotated[float, fields.between(0.01, 20)]
    density: Annotated[float, fields.between(0, 1e12)]


class RandomLeg(PlayedLeg):
    """A random force with a spectrum, for a time; the same seed plays the same force."""

    kind: Literal["random"] = "random"
    mean_n: Force
    spectrum: Annotated[list[SpectrumPoint], Field(min_length=2, max_length=50)]
    seconds_s: Annotated[float, fields.between(1, MAX_SECONDS)]
    seed: Annotated[int, Field(ge=0, le=2**31 - 1)] = 1

    @field_validator("spectrum")
    @classmethod
    def _rises(cls, spectrum: list[SpectrumPoint]) -> list[SpectrumPoint]:
        if any(b.hz <= a.hz for a, b in pairwise(spectrum)):
            raise PydanticCustomError("rule", "must have frequencies that rise")
        if not any(point.density for point in spectrum):
            raise PydanticCustomError("rule", "has no force in it")
        return spectrum

    @property
    def points_hz(self) -> float:
        return PER_CYCLE * self.spectrum[-1].hz

    @property
    def points(self) -> int:
        """Of a period."""
        return max(2, min(MAX_PERIOD, round(self.seconds_s * self.points_hz)))

    @property
    def rounds(self) -> int:
        return max(1, round(self.seconds_s * self.points_hz / self.points))

    @property
    def forces(self) -> NDArray[np.float64]:
        return _drawn(
            self.mean_n,
            tuple((p.hz, p.density) for p in self.spectrum),
            self.points,
            self.points_hz,
            self.seed,
        )

    @property
    def sentence(self) -> str:
        band = f"{self.spectrum[0].hz:g} to {self.spectrum[-1].hz:g} Hz"
        about = f"{self.mean_n:g} N, deviation {self.forces.std():.3g} N"
        return f"Random, {band}, about {about}, for {self.seconds_s:g} s."


@lru_cache(maxsize=64)
def _drawn(
    mean_n: float, spectrum: tuple[tuple[float, float], ...], points: int, rate_hz: float, seed: int
) -> NDArray[np.float64]:
    from yoke_core.loading.random_force import random_force

    return random_force(mean_n, spectrum, points, rate_hz, seed)
