"""Which arms of a bridge are strained, and what strain its output stands for, exactly.

Arms count counter-clockwise from the upper left: 1 and 2 lie in series between the excitation
corners, their joint is the left signal corner; 4 and 3 are the right half.
"""

import math
from dataclasses import dataclass
from enum import StrEnum
from typing import NamedTuple

import numpy as np
from numpy.typing import ArrayLike, NDArray

from yoke_core.checks import positive
from yoke_core.errors import ScalingError

Array = NDArray[np.float64]
FLAT = 1e-9  # of the equation's linear term: an arm is open there


class Circuit(StrEnum):
    """Arrangements of active arms."""

    QUARTER = "quarter"
    HALF_BENDING = "half_bending"
    HALF_POISSON = "half_poisson"
    HALF_OPPOSITE = "half_opposite"
    FULL_BENDING = "full_bending"
    FULL_BENDING_POISSON = "full_bending_poisson"
    FULL_AXIAL = "full_axial"
    FULL_TORSION = "full_torsion"


# By arm, the strain it sees over the principal strain: (constant, times Poisson's ratio).
_SHARES: dict[Circuit, tuple[tuple[float, float], ...]] = {
    Circuit.QUARTER: ((1, 0), (0, 0), (0, 0), (0, 0)),
    Circuit.HALF_BENDING: ((1, 0), (-1, 0), (0, 0), (0, 0)),
    Circuit.HALF_POISSON: ((1, 0), (0, -1), (0, 0), (0, 0)),
    Circuit.HALF_OPPOSITE: ((1, 0), (0, 0), (1, 0), (0, 0)),
    Circuit.FULL_BENDING: ((1, 0), (-1, 0), (1, 0), (-1, 0)),
    Circuit.FULL_BENDING_POISSON: ((1, 0), (-1, 0), (0, 1), (0, -1)),
    Circuit.FULL_AXIAL: ((1, 0), (0, -1), (1, 0), (0, -1)),
    Circuit.FULL_TORSION: ((1, 0), (-1, 0), (1, 0), (-1, 0)),
}


NEIGHBOURS = frozenset({Circuit.HALF_BENDING, Circuit.HALF_POISSON})
# Cores from which on two of them are sense cores; a quarter bridge has none.
SENSED = dict.fromkeys(Circuit, 6) | dict.fromkeys(NEIGHBOURS, 5)
del SENSED[Circuit.QUARTER]


def active_arms(circuit: Circuit) -> tuple[int, ...]:
    """Numbers of the strained arms.

    Parameters
    ----------
    circuit : Circuit

    Returns
    -------
    tuple of int
        From 1 to 4, in order.

    Examples
    --------
    >>> active_arms(Circuit.HALF_BENDING)
    (1, 2)
    """
    return tuple(i + 1 for i, share in enumerate(_SHARES[circuit]) if any(share))


def arm_shares(circuit: Circuit, poisson_ratio: float) -> tuple[float, float, float, float]:
    """The strain of each arm over the principal strain.

    Parameters
    ----------
    circuit : Circuit
    poisson_ratio : float
        Of the part; counts where grids lie across.

    Returns
    -------
    tuple of float
        Of arms 1 to 4; positive where tension of the part stretches the arm, 0 where it is passive.

    Examples
    --------
    >>> arm_shares(Circuit.FULL_AXIAL, 0.3)
    (1.0, -0.3, 1.0, -0.3)
    """
    a, b, c, d = (constant + nu * poisson_ratio for constant, nu in _SHARES[circuit])
    return a, b, c, d


@dataclass(frozen=True, slots=True)
class RestingBridge:
    """A bridge without strain, its leads and completion with it; all over one arm's resistance.

    arms : of each arm, with the cores that lie in it
    supply : of the cores in series with both halves, where the excitation counts before them;
        below zero where sense cores take off it what lies in the arms
    """

    arms: tuple[float, float, float, float] = (1.0, 1.0, 1.0, 1.0)
    supply: float = 0.0


def resting_bridge(
    circuit: Circuit, wires: int, core_ohm: float, arm_ohm: float, completion_ohm: float
) -> RestingBridge:
    """Where cores and completion lie in a bridge.

    Parameters
    ----------
    circuit : Circuit
    wires : int
        Cores of the cable: 2 or 3 for a quarter bridge, 3 for neighbours, 4 for opposite arms
        and full bridges; from `SENSED` on two of them are sense cores. More are not used.
    core_ohm, arm_ohm, completion_ohm : float, ohm
        Of one core (not negative), of one strained arm, of one resistor in the amplifier.

    Returns
    -------
    RestingBridge

    Raises
    ------
    ScalingError
        Where the arm's resistance is not above zero.

    Notes
    -----
    Quarter with two wires: both cores lie in arm 1; with three: one in arm 1, one in arm 2,
    the third carries no current. Neighbours: a core in each arm, none with sense cores; the
    amplifier's own half is even. Opposite arms: two cores in each, of which the excitation
    core counts no more with sense cores. Full bridge: two in the supply, none with sense.

    Examples
    --------
    >>> resting_bridge(Circuit.QUARTER, 3, 3.5, 350.0, 350.0).arms
    (1.01, 1.01, 1, 1)
    """
    arm = positive("resistance_ohm", arm_ohm, ScalingError)
    r, c = core_ohm / arm, completion_ohm / arm
    sensed = wires >= SENSED.get(circuit, math.inf)
    if circuit is Circuit.QUARTER:
        return RestingBridge((1 + 2 * r, c, 1, 1) if wires == 2 else (1 + r, c + r, 1, 1))
    if circuit is Circuit.HALF_OPPOSITE:
        return RestingBridge((1 + 2 * r, c, 1 + 2 * r, c), -r if sensed else 0.0)
    if sensed:
        return RestingBridge()
    if circuit in NEIGHBOURS:
        return RestingBridge((1 + r, 1 + r, 1, 1))
    return RestingBridge(supply=2 * r)


@dataclass(frozen=True, slots=True)
class BridgeStrain:
    """Strain (m/m) from a bridge's output (V/V) less its output at rest; not linearised.

    Parameters
    ----------
    gauge_factor : float, above zero
    circuit : Circuit
    poisson_ratio : float
        Of the part; counts in circuits with transverse grids.
    rest : RestingBridge

    Notes
    -----
    With t = k * strain, arms of their resistance at rest + share * t, and the halves (1, 2) and
    (4, 3), the divider rule U/E = R3/(R3 + R4) - R2/(R1 + R2) is a quadratic equation in t; the
    root that is zero at rest is taken. Quarter bridge without leads: strain = 4U / (k (1 - 2U)).
    An output that no strain of intact arms gives, as of an open arm, gives no number (NaN);
    an infinite one (clipped) stays infinite.
    """

    gauge_factor: float
    circuit: Circuit = Circuit.QUARTER
    poisson_ratio: float = 0.3
    rest: RestingBridge = RestingBridge()

    def __post_init__(self) -> None:
        positive("gauge_factor", self.gauge_factor, ScalingError)

    @property
    def direction(self) -> int:
        return 1

    def apply(self, ratio: ArrayLike) -> Array:
        return solve(self.equation, ratio)

    @property
    def equation(self) -> "BridgeEquation":
        s1, s2, s3, s4 = arm_shares(self.circuit, self.poisson_ratio)
        p1, p2, p3, p4 = self.rest.arms
        q, s, p, t = p1 + p2, s1 + s2, p4 + p3, s4 + s3
        supply = self.rest.supply
        whole = q * p + supply * (q + p)
        rest = (p3 * q - p2 * p) / whole
        b1 = q * t + p * s + supply * (s + t)
        b0 = p3 * s + s3 * q - p2 * t - s2 * p - rest * b1
        a0 = s3 * s - s2 * t - rest * s * t
        shares = (s1, s2, s3, s4)
        least = max((-1 / x for x in shares if x > 0), default=-np.inf)
        most = min((-1 / x for x in shares if x < 0), default=np.inf)
        return BridgeEquation(a0, s * t, b0, b1, whole, self.gauge_factor, least, most)


class BridgeEquation(NamedTuple):
    """(a0 - a1 u) t^2 + (b0 - b1 u) t - c u = 0, with u the output less that at rest.

    t is the gauge factor times the strain; between ``least`` and ``most`` every arm has a
    resistance above zero.
    """

    a0: float
    a1: float
    b0: float
    b1: float
    c: float
    gauge_factor: float
    least: float
    most: float


def solve(of: BridgeEquation, ratio: ArrayLike) -> Array:
    """Strain from outputs of a bridge; see `BridgeStrain`.

    Parameters
    ----------
    of : BridgeEquation
    ratio : array_like, any shape, V/V
        Outputs less the output at rest.

    Returns
    -------
    array of float, the same shape, m/m
        NaN where no strain of intact arms gives the output; infinite where it is infinite.

    Examples
    --------
    >>> quarter = BridgeStrain(gauge_factor=2.0)
    >>> float(solve(quarter.equation, 0.5e-3))
    0.001001001001001001
    """
    signal = np.asarray(ratio, dtype=float)
    finite = np.isfinite(signal)
    u = np.where(finite, signal, 0.0)
    b, c = of.b0 - of.b1 * u, of.c * u
    with np.errstate(invalid="ignore", divide="ignore"):
        t = 2 * c / (b + np.sqrt(b * b + 4 * (of.a0 - of.a1 * u) * c))
    intact = finite & (b > FLAT) & (t > of.least) & (t < of.most)
    return np.where(intact, t / of.gauge_factor, np.where(finite, np.nan, signal))
