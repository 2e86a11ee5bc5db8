"""Rosettes over time: principal strains at many instants, at the speed of memory."""

from dataclasses import dataclass

import numba
import numpy as np
from numpy.typing import NDArray

from yoke_core.errors import RosetteError
from yoke_core.rosette.state import MIN_DIFFERENCE, Rosette

Strains = NDArray[np.float32]
MIN_RADIUS = np.float32(MIN_DIFFERENCE / 2)


@dataclass(frozen=True, slots=True)
class PrincipalStrains:
    """Over time: principal strains (m/m), the first the larger, and its angle from grid a (rad).

    The angle lies between -pi/2 and pi/2; NaN where a grid has no number, or where the two are
    the same (to `MIN_DIFFERENCE`).
    """

    first: Strains
    second: Strains
    angle: Strains


@numba.njit(cache=True, nogil=True, error_model="numpy")
def _arctangent(y, x):  # type: ignore[no-untyped-def]
    """Angle of (x, y) to 2e-8 rad without branches, so that the compiler makes vectors of it.

    Source: Abramowitz and Stegun, Handbook of Mathematical Functions, 4.4.49.
    """
    f = np.float32
    across, along = abs(y), abs(x)
    low, high = min(across, along), max(across, along)
    q = low / max(high, f(1e-30))
    s = q * q
    p = f(0.0028662257)
    p = p * s + f(-0.0161657367)
    p = p * s + f(0.0429096138)
    p = p * s + f(-0.0752896400)
    p = p * s + f(0.1065626393)
    p = p * s + f(-0.1420889944)
    p = p * s + f(0.1999355085)
    p = p * s + f(-0.3333314528)
    p = (p * s + f(1.0)) * q
    p = f(np.pi / 2) - p if across > along else p
    p = f(np.pi) - p if x < 0 else p
    return -p if y < 0 else p


@numba.njit(cache=True, nogil=True, error_model="numpy", fastmath={"contract", "reassoc"})
def _principal(a, b, c, m, first, second, angle):  # type: ignore[no-untyped-def]
    half = np.float32(0.5)
    for i in range(a.size):
        x = m[0, 0] * a[i] + m[0, 1] * b[i] + m[0, 2] * c[i]
        y = m[1, 0] * a[i] + m[1, 1] * b[i] + m[1, 2] * c[i]
        shear = half * (m[2, 0] * a[i] + m[2, 1] * b[i] + m[2, 2] * c[i])
        middle, apart = half * (x + y), half * (x - y)
        radius = np.sqrt(apart * apart + shear * shear)
        first[i], second[i] = middle + radius, middle - radius
        no_number = radius - radius  # NaN where a grid has none, or clipped
        same = np.float32(np.nan) if radius < MIN_RADIUS else no_number
        angle[i] = half * _arctangent(shear, apart) + same


def principal_strains(rosette: Rosette, a: Strains, b: Strains, c: Strains) -> PrincipalStrains:
    """Principal strains at many instants.

    Parameters
    ----------
    rosette : Rosette
    a, b, c : array of float32, shape (n,), m/m
        Strains of the grids, zeroed, tension positive.

    Returns
    -------
    PrincipalStrains
        Arrays of shape (n,): first and second in m/m, the angle in rad from grid a. NaN in a grid
        gives NaN at that instant.

    Raises
    ------
    RosetteError
        If the lengths differ: the grids must be measured at the same instants.

    Notes
    -----
    Least squares of the three grids' equations; for 0/45/90 degrees Mohr's circle.

    Examples
    --------
    >>> from yoke_core.rosette.state import Rosette
    >>> a, b, c = (np.array([x], np.float32) for x in (800e-6, 300e-6, -200e-6))
    >>> found = principal_strains(Rosette(), a, b, c)
    >>> round(float(found.first[0]) * 1e6), round(float(found.second[0]) * 1e6)
    (800, -200)
    """
    if not len(a) == len(b) == len(c):
        raise RosetteError(
            "grids",
            "The grids are not measured at the same instants.",
            "Give the three channels the same rate on one device.",
        )
    out = [np.empty(len(a), np.float32) for _ in range(3)]
    grids = [np.ascontiguousarray(g, np.float32) for g in (a, b, c)]
    _principal(*grids, rosette.solution.astype(np.float32), *out)
    return PrincipalStrains(*out)
