"""A flat coupon in the grips: it yields, hardens, necks and breaks."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Material:
    """Engineering curve of an aluminium tube; stresses Pa, strains m/m."""

    modulus: float = 68.9e9
    proof: float = 275e6
    strength: float = 311e6
    plastic_at_strength: float = 0.076
    plastic_at_break: float = 0.112
    break_stress_share: float = 0.87

    def curve(self) -> tuple[Array, Array]:
        """Strain and stress from nothing to the break; strain only rises."""
        exponent = np.log(self.plastic_at_strength / 0.002) / np.log(self.strength / self.proof)
        up = np.linspace(0.0, 1.0, 1500) ** 0.5 * self.strength
        strain_up = up / self.modulus + 0.002 * (up / self.proof) ** exponent
        share = np.linspace(0.0, 1.0, 300)[1:]
        down = self.strength * (1 - (1 - self.break_stress_share) * share**2)
        strain_end = self.plastic_at_break + down[-1] / self.modulus
        strain_down = strain_up[-1] + share * (strain_end - strain_up[-1])
        return np.concatenate([strain_up, strain_down]), np.concatenate([up, down])


@dataclass(slots=True)
class Coupon:
    """One coupon between grips; lengths m, stiffness N/m."""

    material: Material
    width: float = 12.5e-3
    thickness: float = 3.0e-3
    parallel_length: float = 57e-3
    grip_stiffness: float = 25e6
    broken: bool = False
    _travel_reached: float = 0.0
    _travel: Array = field(init=False)
    _strain: Array = field(init=False)
    _force: Array = field(init=False)

    def __post_init__(self) -> None:
        self._strain, stress = self.material.curve()
        self._force = stress * self.width * self.thickness
        self._travel = self._strain * self.parallel_length + self._force / self.grip_stiffness

    def pull(self, travel: Array) -> tuple[Array, Array]:
        """Force (N) and strain (m/m) for crosshead positions (m) in the order they come.

        Below the farthest position so far the coupon unloads elastically; it does not push.
        """
        reached = np.maximum.accumulate(np.concatenate([[self._travel_reached], travel]))[1:]
        whole = (reached < self._travel[-1]) & (not self.broken)
        force_top = np.interp(reached, self._travel, self._force)
        strain_top = np.interp(reached, self._travel, self._strain)
        area_modulus = self.material.modulus * self.width * self.thickness
        stiffness = 1 / (1 / self.grip_stiffness + self.parallel_length / area_modulus)
        force = np.where(whole, np.maximum(force_top - stiffness * (reached - travel), 0.0), 0.0)
        strain = strain_top - (force_top - force) / area_modulus
        self._travel_reached = float(reached[-1]) if reached.size else self._travel_reached
        self.broken = self.broken or self._travel_reached >= self._travel[-1]
        return force, strain
