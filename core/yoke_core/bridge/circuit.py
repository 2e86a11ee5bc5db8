"""Which arms of a bridge are strained, and how much of the strain reaches the output."""

from dataclasses import dataclass
from enum import StrEnum


class Circuit(StrEnum):
    """Arrangements of active arms."""

    QUARTER = "quarter"
    HALF_BENDING = "half_bending"
    HALF_POISSON = "half_poisson"
    HALF_OPPOSITE = "half_opposite"
    FULL_BENDING = "full_bending"
    FULL_AXIAL = "full_axial"
    FULL_TORSION = "full_torsion"


@dataclass(frozen=True, slots=True)
class CircuitFacts:
    """Active arms and bridge factor B of a circuit, B = constant + poisson * nu."""

    active_arms: tuple[int, ...]
    constant: float
    poisson: float


FACTS: dict[Circuit, CircuitFacts] = {
    Circuit.QUARTER: CircuitFacts((1,), 1, 0),
    Circuit.HALF_BENDING: CircuitFacts((1, 2), 2, 0),
    Circuit.HALF_POISSON: CircuitFacts((1, 2), 1, 1),
    Circuit.HALF_OPPOSITE: CircuitFacts((1, 3), 2, 0),
    Circuit.FULL_BENDING: CircuitFacts((1, 2, 3, 4), 4, 0),
    Circuit.FULL_AXIAL: CircuitFacts((1, 2, 3, 4), 2, 2),
    Circuit.FULL_TORSION: CircuitFacts((1, 2, 3, 4), 4, 0),
}


def bridge_factor(circuit: Circuit, poisson_ratio: float = 0.3) -> float:
    """Bridge factor B in U/E = B * k * strain / 4 for small strains.

    Parameters
    ----------
    circuit : Circuit
    poisson_ratio : float
        Poisson's ratio of the part; counts in the circuits with transverse grids.

    Notes
    -----
    Sum of the strains of the arms with the signs (+, -, +, -) over the principal strain.
    Source: K. Hoffmann, An Introduction to Measurements using Strain Gages.
    """
    facts = FACTS[circuit]
    return facts.constant + facts.poisson * poisson_ratio
