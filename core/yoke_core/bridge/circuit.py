"""Which arms of a bridge are strained, and what strain its output stands for, exactly."""

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


def active_arms(circuit: Circuit) -> tuple[int, ...]:
    """Numbers of the strained arms."""
    return tuple(i + 1 for i, share in enumerate(_SHARES[circuit]) if any(share))


def arm_shares(circuit: Circuit, poisson_ratio: float) -> tuple[float, float, float, float]:
    """The strain of each arm over the principal strain."""
    a, b, c, d = (constant + nu * poisson_ratio for constant, nu in _SHARES[circuit])
    return a, b, c, d


@dataclass(frozen=True, slots=True)
class LeadShares:
    """Cable resistance over the arms' resistance: in series with each arm, and in the supply."""

    arms: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    supply: float = 0.0


def lead_shares(circuit: Circuit, wires: int, core_ohm: float, arm_ohm: float) -> LeadShares:
    """Where a cable's cores lie in the bridge.

    Parameters
    ----------
    wires : int
        Cores of the cable: 2 or 3 for a quarter bridge, 3 for neighbours, 4 for opposite
        arms and full bridges. One or two more are sense wires, with which nothing is lost.
    core_ohm, arm_ohm : float, ohm
        Resistance of one core (not negative), and of one arm (above zero).

    Notes
    -----
    Quarter with two wires: both cores lie in arm 1; with three: one in arm 1, one in arm 4,
    the third carries no current. Neighbours: one in each arm and one in the common supply.
    Opposite arms: two in each. Full bridge without sense wires: two in the supply.
    """
    r = core_ohm / positive("resistance_ohm", arm_ohm, ScalingError)
    if circuit is Circuit.QUARTER:
        return LeadShares((2 * r, 0, 0, 0) if wires == 2 else (r, 0, 0, r))
    if circuit is Circuit.HALF_OPPOSITE:
        return LeadShares((2 * r, 0, 2 * r, 0)) if wires <= 4 else LeadShares()
    if circuit in (Circuit.HALF_BENDING, Circuit.HALF_POISSON):
        return LeadShares((r, r, 0, 0), r) if wires <= 3 else LeadShares()
    return LeadShares(supply=2 * r) if wires <= 4 else LeadShares()


@dataclass(frozen=True, slots=True)
class BridgeStrain:
    """Strain (m/m) from a bridge's output (V/V) less its output at rest; not linearised.

    Parameters
    ----------
    gauge_factor : float, above zero
    circuit : Circuit
    poisson_ratio : float
        Of the part; counts in circuits with transverse grids.
    leads : LeadShares

    Notes
    -----
    With t = k * strain, arms 1 + lead + share * t, and the halves (1, 4) and (2, 3), the
    divider rule U/E = R3/(R2 + R3) - R4/(R1 + R4) is a quadratic equation in t; the root
    that is zero at rest is taken. Quarter bridge without leads: strain = 4U / (k (1 - 2U)).
    An output that no strain of intact arms gives, as of an open arm, gives no number (NaN);
    an infinite one (clipped) stays infinite.
    """

    gauge_factor: float
    circuit: Circuit = Circuit.QUARTER
    poisson_ratio: float = 0.3
    leads: LeadShares = LeadShares()

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
        p1, p2, p3, p4 = (1 + lead for lead in self.leads.arms)
        q, s, p, t = p1 + p4, s1 + s4, p2 + p3, s2 + s3
        supply = self.leads.supply
        whole = q * p + supply * (q + p)
        rest = (p3 * q - p4 * p) / whole
        b1 = q * t + p * s + supply * (s + t)
        b0 = p3 * s + s3 * q - p4 * t - s4 * p - rest * b1
        a0 = s3 * s - s4 * t - rest * s * t
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
    """Strain from outputs; see `BridgeStrain`."""
    signal = np.asarray(ratio, dtype=float)
    finite = np.isfinite(signal)
    u = np.where(finite, signal, 0.0)
    b, c = of.b0 - of.b1 * u, of.c * u
    with np.errstate(invalid="ignore", divide="ignore"):
        t = 2 * c / (b + np.sqrt(b * b + 4 * (of.a0 - of.a1 * u) * c))
    intact = finite & (b > FLAT) & (t > of.least) & (t < of.most)
    return np.where(intact, t / of.gauge_factor, np.where(finite, np.nan, signal))
