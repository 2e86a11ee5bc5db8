"""Principal strains and stresses of a rosette, as signals."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from yoke_core.rosette.state import Isotropic, Rosette, principal_stresses, von_mises
from yoke_core.signals.node import Array, Node, Process


@dataclass(frozen=True, slots=True)
class Principal:
    """Principal strains (m/m) with the angle of the first (rad), and the stresses (Pa)."""

    first: Array
    second: Array
    angle: Array
    material: Isotropic

    @property
    def stresses(self) -> tuple[Array, Array]:
        return principal_stresses(self.material, self.first, self.second)


QUANTITIES: dict[str, Callable[[Principal], Array]] = {
    "strain 1": lambda p: p.first,
    "strain 2": lambda p: p.second,
    "shear strain": lambda p: p.first - p.second,
    "angle": lambda p: p.angle,
    "stress 1": lambda p: p.stresses[0],
    "stress 2": lambda p: p.stresses[1],
    "von Mises": lambda p: von_mises(*p.stresses),
}


@dataclass(frozen=True, slots=True)
class RosetteQuantity:
    """One of QUANTITIES of the three grids that are its inputs, measured at the same instants."""

    quantity: str
    rosette: Rosette
    material: Isotropic
    inputs: tuple[Node, ...]

    def start(self, rate_hz: float) -> Process:
        return _RosetteQuantity(QUANTITIES[self.quantity], self.rosette, self.material)


class _RosetteQuantity:
    def __init__(
        self, quantity: Callable[[Principal], Array], rosette: Rosette, material: Isotropic
    ) -> None:
        from yoke_core.rosette.series import principal_strains

        self._strains = principal_strains
        self._quantity, self._rosette, self._material = quantity, rosette, material

    def push(self, values: Sequence[Array], follows: bool) -> Array:
        a, b, c = (np.where(np.isfinite(v), v, np.nan).astype(np.float32) for v in values)
        found = self._strains(self._rosette, a, b, c)
        parts = (found.first, found.second, found.angle)
        first, second, angle = (p.astype(np.float64) for p in parts)
        return self._quantity(Principal(first, second, angle, self._material))
