"""Uncertainty budgets: terms, what they come to together, the interval that is stated."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from yoke_core.errors import UncertaintyError

COVERAGE = 0.9545  # of a normal distribution within two standard uncertainties


class Distribution(StrEnum):
    """How the values of an input are spread about its estimate."""

    NORMAL = "normal"
    RECTANGULAR = "rectangular"
    TRIANGULAR = "triangular"
    ARCSINE = "arcsine"
    STUDENT = "t"


DIVISORS = {
    Distribution.RECTANGULAR: math.sqrt(3),
    Distribution.TRIANGULAR: math.sqrt(6),
    Distribution.ARCSINE: math.sqrt(2),
}


@dataclass(frozen=True, slots=True)
class Component:
    """One input of a budget.

    Parameters
    ----------
    name : str
    standard : float
        Standard uncertainty of the input, in its own unit; not negative.
    sensitivity : float
        Change of the result for a unit of the input.
    dof : float
        Degrees of freedom; infinite where the standard uncertainty is taken as known.
    distribution : Distribution
        As Monte Carlo draws it.
    source : str
        Terms of one source move together (correlation 1), as two loads by one certificate do;
        empty of a term that moves by itself.

    Raises
    ------
    UncertaintyError
        For a standard uncertainty that is negative or no number, or no degrees of freedom.

    Notes
    -----
    Source: JCGM 100:2008 (GUM), 4.2 and 4.3.

    Examples
    --------
    >>> Component("reference", 0.5, sensitivity=-2.0).contribution
    -1.0
    """

    name: str
    standard: float
    sensitivity: float = 1.0
    dof: float = math.inf
    distribution: Distribution = Distribution.NORMAL
    source: str = ""

    def __post_init__(self) -> None:
        if not (math.isfinite(self.standard) and self.standard >= 0):
            raise UncertaintyError(
                "standard",
                f"The standard uncertainty of {self.name} must be 0 or above, not "
                f"{self.standard:g}.",
            )
        if not self.dof > 0:
            raise UncertaintyError(
                "dof", f"{self.name} has {self.dof:g} degrees of freedom: it needs one at least."
            )

    @property
    def contribution(self) -> float:
        """To the result, in its unit, with the sign of the sensitivity."""
        return self.sensitivity * self.standard


def limits(
    name: str,
    half_width: float,
    sensitivity: float = 1.0,
    distribution: Distribution = Distribution.RECTANGULAR,
    source: str = "",
) -> Component:
    """A term of which only the limits are known.

    Parameters
    ----------
    name : str
    half_width : float
        Half the distance between the limits, in the input's unit.
    sensitivity : float
    distribution : Distribution
        Rectangular, triangular or arcsine.
    source : str

    Returns
    -------
    Component

    Notes
    -----
    Source: GUM 4.3.7 and 4.3.9.

    Examples
    --------
    >>> round(limits("resolution", 0.5).standard, 4)
    0.2887
    """
    standard = half_width / DIVISORS[distribution]
    return Component(name, standard, sensitivity, math.inf, distribution, source)


@dataclass(frozen=True, slots=True)
class Budget:
    """Terms of one result.

    Examples
    --------
    The end gauge of GUM H.1, nm.

    >>> gauge = Budget([
    ...     Component("standard", 25.0, dof=18), Component("difference", 9.7, dof=25.6),
    ...     Component("expansion", 2.9, dof=50), Component("temperature", 16.6, dof=2),
    ... ])
    >>> round(gauge.combined), math.floor(gauge.dof), round(gauge.expanded(0.99))
    (32, 16, 93)
    """

    terms: Sequence[Component]

    @property
    def parts(self) -> list[tuple[float, float]]:
        """Contribution and degrees of freedom of each term, or of the terms of one source."""
        together: dict[str, list[Component]] = {}
        for place, term in enumerate(self.terms):
            together.setdefault(term.source or f"\0{place}", []).append(term)
        return [
            (sum(t.contribution for t in terms), min(t.dof for t in terms))
            for terms in together.values()
        ]

    @property
    def combined(self) -> float:
        """Combined standard uncertainty of the result (GUM 5.1.2, 5.2.2)."""
        return math.hypot(*(part for part, _ in self.parts))

    @property
    def dof(self) -> float:
        """Effective degrees of freedom (Welch-Satterthwaite, GUM G.4.1)."""
        if not (total := self.combined):
            return math.inf
        spent = sum((part / total) ** 4 / dof for part, dof in self.parts)
        return 1 / spent if spent > 0 else math.inf

    def coverage_factor(self, probability: float = COVERAGE) -> float:
        """k for an interval that holds the value with a probability (GUM G.3, truncated dof)."""
        return coverage_factor(self.dof, probability)

    def expanded(self, probability: float = COVERAGE) -> float:
        """Expanded uncertainty U = k u."""
        return self.coverage_factor(probability) * self.combined


def coverage_factor(dof: float, probability: float = COVERAGE) -> float:
    """Student's factor for a probability.

    Parameters
    ----------
    dof : float
        Effective degrees of freedom; cut down to a whole number, but never below one.
    probability : float
        Above 0 and below 1.

    Returns
    -------
    float

    Raises
    ------
    UncertaintyError
        For a probability that is none.

    Notes
    -----
    Source: GUM G.3.2, G.4.1 note 1 and table G.2.

    Examples
    --------
    >>> round(coverage_factor(10.7), 2), round(coverage_factor(math.inf), 2)
    (2.28, 2.0)
    """
    from scipy.special import stdtrit

    if not 0 < probability < 1:
        raise UncertaintyError("probability", "A probability lies between 0 and 1.")
    whole = 1e9 if dof > 1e9 else max(1, math.floor(dof))
    return float(stdtrit(whole, (1 + probability) / 2))
