"""One instant of a rosette: from three strains to principal strains and stresses.

Angles run counter-clockwise from grid a, in rad; tension is positive; plane stress, isotropic.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from yoke_core.checks import positive
from yoke_core.errors import RosetteError

Array = NDArray[np.float64]
Strains = NDArray[np.floating[Any]]

CALIBRATION_POISSON = 0.285  # of the bar on which gauge factors are determined
CLOSEST_ANGLES = np.deg2rad(5.0)
MIN_DIFFERENCE = 1e-6  # m/m between principal strains, below which no direction stands out


@dataclass(frozen=True, slots=True)
class Rosette:
    """Three grids: their angles (rad), and their transverse sensitivity (a share).

    Only the differences of the angles count: results are given from grid a.

    Raises
    ------
    RosetteError
        If there are not three angles, or two of them are closer than 5 degrees (grids that
        are half a turn apart measure the same).
    """

    angles: tuple[float, ...] = (0.0, np.pi / 4, np.pi / 2)
    transverse: float = 0.0

    def __post_init__(self) -> None:
        if len(self.angles) != 3:
            raise RosetteError(
                "angles",
                f"A rosette has three grids, not {len(self.angles)}.",
                "Choose three channels and give each its angle.",
            )
        for i, j in ((0, 1), (1, 2), (0, 2)):
            apart = (self.angles[i] - self.angles[j]) % np.pi
            if min(apart, np.pi - apart) < CLOSEST_ANGLES:
                raise RosetteError(
                    "angles",
                    f"Grids {'abc'[i]} and {'abc'[j]} lie in the same direction, so they "
                    "measure the same strain.",
                    "Give the grids' angles as they lie on the part.",
                )

    @property
    def solution(self) -> Array:
        """(3, 3): strain_x along grid a, strain_y and gamma_xy from the grids' readings.

        Notes
        -----
        strain(angle) = x cos^2 + y sin^2 + gamma sin cos; a grid with transverse sensitivity
        K reads (strain along + K * strain across) / (1 - K * 0.285).
        Source: Hoffmann, An Introduction to Measurements using Strain Gages.
        """
        angle, k = np.array(self.angles) - self.angles[0], self.transverse
        c, s = np.cos(angle), np.sin(angle)
        rows = np.stack([c**2 + k * s**2, s**2 + k * c**2, (1 - k) * s * c], axis=1)
        return np.asarray(np.linalg.inv(rows / (1 - k * CALIBRATION_POISSON)))


@dataclass(frozen=True, slots=True)
class Isotropic:
    """Young's modulus (Pa) and Poisson's ratio."""

    modulus: float
    poisson_ratio: float

    def __post_init__(self) -> None:
        positive("modulus", self.modulus, RosetteError)
        if not 0 <= self.poisson_ratio <= 0.5:
            raise RosetteError(
                "poisson_ratio",
                f"Poisson's ratio lies between 0 and 0.5; {self.poisson_ratio:g} does not.",
                "Give the material's ratio, 0.29 for steel.",
            )


@dataclass(frozen=True, slots=True)
class RosetteState:
    """Everything at one instant; strains m/m, stresses Pa.

    angle : rad from grid a to the first principal strain; None where both are the same
    shear_strain : the largest in the plane of the rosette
    shear_stress : the largest of all planes: the third principal stress is 0
    biaxiality : the second principal stress over the first, by magnitude: within -1..1; None
        where there is no stress
    """

    strain_1: float
    strain_2: float
    shear_strain: float
    angle: float | None
    stress_1: float
    stress_2: float
    shear_stress: float
    von_mises: float
    biaxiality: float | None


def principal_stresses(material: Isotropic, first: Strains, second: Strains) -> tuple[Array, Array]:
    """Principal stresses by Hooke's law in plane stress.

    Parameters
    ----------
    material : Isotropic
    first, second : array, one shape, m/m
        Principal strains.

    Returns
    -------
    first, second : array, the same shape, Pa

    Examples
    --------
    >>> steel = Isotropic(modulus=200e9, poisson_ratio=0.25)
    >>> one, other = principal_stresses(steel, np.array([1e-3]), np.array([-0.25e-3]))
    >>> one.round(-3), other.round(-3)
    (array([2.e+08]), array([0.]))
    """
    e, nu = material.modulus, material.poisson_ratio
    stiff = e / (1 - nu**2)
    return stiff * (first + nu * second), stiff * (second + nu * first)


def von_mises(stress_1: Array, stress_2: Array) -> Array:
    """Equivalent stress in plane stress, after von Mises.

    Parameters
    ----------
    stress_1, stress_2 : array, one shape, Pa
        Principal stresses.

    Returns
    -------
    array, the same shape, Pa

    Examples
    --------
    >>> von_mises(np.array([100e6, 100e6]), np.array([0.0, 100e6]))
    array([1.e+08, 1.e+08])
    """
    return np.asarray(np.sqrt(stress_1**2 - stress_1 * stress_2 + stress_2**2))


def rosette_state(
    rosette: Rosette, material: Isotropic, grids: tuple[float, float, float]
) -> RosetteState:
    """The state at one instant, in full precision.

    Parameters
    ----------
    rosette : Rosette
    material : Isotropic
    grids : tuple of three float, m/m
        Strains of grids a, b and c, tension positive.

    Returns
    -------
    RosetteState
        ``angle`` and ``biaxiality`` are None where the strain is the same in all directions.

    Raises
    ------
    RosetteError
        If a grid has no number there: it is broken or clipped.

    Examples
    --------
    >>> found = rosette_state(Rosette(), Isotropic(200e9, 0.25), (1e-3, 0.375e-3, -0.25e-3))
    >>> round(found.stress_1 / 1e6), round(found.von_mises / 1e6)
    (200, 200)
    """
    for name, strain in zip("abc", grids, strict=True):
        if not np.isfinite(strain):
            raise RosetteError(
                "grids",
                f"Grid {name} has no number here: it is broken, or its input clipped.",
                "Choose another instant, or check the grid.",
            )
    x, y, gamma = rosette.solution @ np.array(grids)
    middle, radius = (x + y) / 2, np.hypot((x - y) / 2, gamma / 2)
    first, second = np.array(middle + radius), np.array(middle - radius)
    s1, s2 = principal_stresses(material, first, second)
    smaller, larger = sorted((float(s1), float(s2)), key=abs)
    has_direction = 2 * radius >= MIN_DIFFERENCE
    return RosetteState(
        strain_1=float(first),
        strain_2=float(second),
        shear_strain=float(2 * radius),
        angle=float(0.5 * np.arctan2(gamma, x - y)) if has_direction else None,
        stress_1=float(s1),
        stress_2=float(s2),
        shear_stress=(max(float(s1), float(s2), 0.0) - min(float(s1), float(s2), 0.0)) / 2,
        von_mises=float(von_mises(s1, s2)),
        biaxiality=smaller / larger if larger else None,
    )
