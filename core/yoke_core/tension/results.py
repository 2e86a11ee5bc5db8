"""Modulus, proof strength, strength and elongation of one tension test."""

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from yoke_core.checks import positive
from yoke_core.errors import TensionError

Array = NDArray[np.float64]
WINDOW = 5  # samples about one, by which it is told whether it is a dropout
DROPOUT = 0.1  # of the largest stress
STEEP, SUDDEN = 0.02, 0.1  # of the strength: a sample's fall, and all of a break's
STRAIGHT = 0.9995  # squared correlation that ISO 6892-1, annex G, asks of the modulus line
NO_LINE = 0.95  # with less, no proof strength is taken from it


@dataclass(frozen=True, slots=True)
class TensionRecipe:
    """How the results are constructed.

    fit_lower, fit_upper : Pa, stress range of the straight line for the modulus
    offset : m/m, plastic strain of the proof strength (0.002 for Rp0.2)
    break_drop : fall of stress, as a share of the strength, that ends the test
    """

    fit_lower: float
    fit_upper: float
    offset: float = 0.002
    break_drop: float = 0.4

    def __post_init__(self) -> None:
        positive("fit_lower", self.fit_lower, TensionError)
        positive("offset", self.offset, TensionError)
        if not self.fit_lower < self.fit_upper:
            raise TensionError(
                "fit_upper",
                f"The fit range must end above its start, but it goes from "
                f"{self.fit_lower / 1e6:.4g} to {self.fit_upper / 1e6:.4g} MPa.",
                "Move the upper end of the fit range up.",
            )
        if not 0 < self.break_drop < 1:
            raise TensionError("break_drop", "The fall at the end must lie between 0 and 100 %.")


@dataclass(frozen=True, slots=True)
class ModulusLine:
    """Straight line stress = slope * (strain - origin) through the fit range."""

    slope: float  # Pa
    origin: float  # m/m, strain where the line meets zero stress: the toe
    points: int
    correlation: float  # coefficient of correlation, squared


@dataclass(frozen=True, slots=True)
class StressPoint:
    """A point of the curve: strain m/m (toe taken off), stress Pa, sample index."""

    strain: float
    stress: float
    index: int


@dataclass(frozen=True, slots=True)
class TensionResult:
    """Results of one test; strains are m/m with the toe taken off, stresses Pa.

    `proof` is None where the curve never meets the offset line, `fracture` where the force
    never fell; `notes` say so in words.
    """

    modulus: ModulusLine
    proof: StressPoint | None
    strength: StressPoint
    plastic_at_strength: float  # Ag
    total_at_strength: float  # Agt
    fracture: StressPoint | None
    elongation_after_break: float | None  # A
    energy: float  # J/m^3, area under the curve up to the end of the test
    notes: tuple[str, ...]


def fit_modulus(stress: Array, strain: Array, lower: float, upper: float) -> ModulusLine:
    """Least squares line through the samples between two stresses on the way up.

    Parameters
    ----------
    stress : array, shape (n,), Pa
    strain : array, shape (n,), m/m
    lower, upper : float, Pa
        Ends of the range.

    Returns
    -------
    ModulusLine

    Raises
    ------
    TensionError
        If fewer than three samples lie in the range, or the line does not rise.

    Notes
    -----
    Stress on strain, all samples alike (ISO 6892-1:2019, annex G). The range is entered at
    the last sample below ``lower`` before ``upper`` is first passed, so that noise round
    zero force does not count.

    Examples
    --------
    >>> strain = np.linspace(0, 1e-3, 11)
    >>> round(fit_modulus(70e9 * strain, strain, 10e6, 60e6).slope / 1e9, 6)
    70.0
    """
    above = np.flatnonzero(stress > upper)
    end = int(above[0]) if above.size else stress.size
    below = np.flatnonzero(stress[:end] < lower)
    start = int(below[-1]) + 1 if below.size else 0
    x, y = strain[start:end], stress[start:end]
    if x.size < 3:
        raise TensionError(
            "fit_lower",
            f"Only {x.size} samples lie between {lower / 1e6:.4g} and {upper / 1e6:.4g} MPa; "
            "a line needs three.",
            "Widen the fit range or lower it below the strength.",
        )
    dx, dy = x - x.mean(), y - y.mean()
    sxx, sxy, syy = float(dx @ dx), float(dx @ dy), float(dy @ dy)
    if sxy <= 0:
        raise TensionError(
            "fit_lower",
            "Stress does not rise with strain in the fit range.",
            "Check the extensometer's sign and its knives, or move the fit range.",
        )
    slope = sxy / sxx
    return ModulusLine(slope, float(x.mean() - y.mean() / slope), x.size, sxy * sxy / (sxx * syy))


def find_dropouts(stress: Array) -> NDArray[np.bool_]:
    """Samples that leave the curve for a moment and come back: a loose contact, no test result.

    Those that lie farther than a tenth of the largest stress off the median of five about them;
    of a fall that stays none does.

    Parameters
    ----------
    stress : array, shape (n,), Pa

    Returns
    -------
    array of bool, shape (n,)

    Examples
    --------
    >>> np.flatnonzero(find_dropouts(np.array([100, 101, 102, 0, 104, 105, 106.0]))).tolist()
    [3]
    """
    if stress.size < WINDOW:
        return np.zeros(stress.size, dtype=bool)
    padded = np.pad(stress, WINDOW // 2, mode="edge")
    middle = np.median(np.lib.stride_tricks.sliding_window_view(padded, WINDOW), axis=1)
    return np.asarray(np.abs(stress - middle) > DROPOUT * np.abs(middle).max())


def find_fracture(stress: Array, peak: int, drop: float) -> int | None:
    """Index of the last sample before the specimen parts.

    It has parted where the stress stays below what ``drop`` leaves of its peak, and where it got
    there by a sudden fall: steps of more than 2 % of the peak a sample, a tenth of it together.
    However far the stress fell while the specimen necked, the break is that fall.

    Parameters
    ----------
    stress : array, shape (n,), Pa
    peak : int
        Index of the largest stress.
    drop : float
        Share of the peak, between 0 and 1.

    Returns
    -------
    int or None
        None where it has not parted.

    Examples
    --------
    >>> find_fracture(np.array([0, 50, 100, 99, 98, 1, 0.0]), 2, 0.4)
    4
    """
    after = stress[peak:]
    high = np.flatnonzero(after >= (1 - drop) * after[0])
    if int(high[-1]) == after.size - 1:
        return None  # it has not fallen, or not for good
    steep = -np.diff(after) > STEEP * after[0]
    edges = np.flatnonzero(np.diff(np.concatenate([[False], steep, [False]]).astype(int)))
    falls = [(after[a] - after[b], a) for a, b in edges.reshape(-1, 2)]
    largest, at = max(falls, default=(0.0, 0))
    return peak + int(at) if largest > SUDDEN * after[0] else None


def find_proof(
    stress: Array, strain: Array, line: ModulusLine, start: int, offset: float
) -> StressPoint | None:
    """First crossing of the curve with the line parallel to the elastic one.

    Parameters
    ----------
    stress : array, shape (n,), Pa
    strain : array, shape (n,), m/m
    line : ModulusLine
    start : int
        Index from which on it is looked for.
    offset : float, m/m
        Plastic strain of the proof strength.

    Returns
    -------
    StressPoint or None
        Interpolated between the two samples around it; None if they never cross: where the curve
        lies beyond the line from the beginning, the elastic line is none.

    Notes
    -----
    ISO 6892-1:2019, clause 13.

    Examples
    --------
    >>> strain = np.linspace(0, 0.02, 201)
    >>> stress = np.minimum(70e9 * strain, 200e6)
    >>> line = ModulusLine(slope=70e9, origin=0.0, points=3, correlation=1.0)
    >>> round(find_proof(stress, strain, line, 1, 0.002).stress / 1e6, 3)
    200.0
    """
    over = stress[start:] - line.slope * (strain[start:] - line.origin - offset)
    crossed = np.flatnonzero((over[:-1] > 0) & (over[1:] <= 0))
    if not crossed.size or over[0] <= 0:
        return None
    i = start + int(crossed[0]) + 1
    share = over[i - start - 1] / (over[i - start - 1] - over[i - start])
    return StressPoint(
        float(strain[i - 1] + share * (strain[i] - strain[i - 1]) - line.origin),
        float(stress[i - 1] + share * (stress[i] - stress[i - 1])),
        i,
    )


def tension_results(stress: Array, strain: Array, recipe: TensionRecipe) -> TensionResult:
    """All results of one tension test.

    Parameters
    ----------
    stress : array, shape (n,), Pa, tension positive
    strain : array, shape (n,), m/m, from the extensometer
    recipe : TensionRecipe

    Returns
    -------
    TensionResult

    Raises
    ------
    TensionError
        If the arrays differ in length, hold no tension, or the fit range has no samples.

    Notes
    -----
    ISO 6892-1:2019: Rm 3.10.1, Rp clause 13, Ag clause 17, Agt clause 18, A clause 20 (by
    extensometer: total extension at fracture less its elastic part), modulus annex G.
    Samples where either signal is not a number are left out, and dropouts of the force, which
    are counted in the notes.

    Examples
    --------
    >>> strain = np.linspace(0, 0.02, 201)
    >>> found = tension_results(
    ...     np.minimum(70e9 * strain, 200e6 + 1e9 * strain), strain, TensionRecipe(20e6, 150e6)
    ... )
    >>> round(found.modulus.slope / 1e9, 3), round(found.strength.stress / 1e6, 3)
    (70.0, 220.0)
    """
    if stress.shape != strain.shape:
        raise TensionError("strain", "Force and extension differ in their number of samples.")
    finite = np.isfinite(stress) & np.isfinite(strain)
    stress, strain = stress[finite], strain[finite]
    dropouts = find_dropouts(stress)
    stress, strain = stress[~dropouts], strain[~dropouts]
    if stress.size < 3 or not stress.max(initial=-math.inf) > 0:
        raise TensionError(
            "stress", "The run holds no tension.", "Check the force channel's sign and scaling."
        )
    peak = int(np.argmax(stress))
    line = fit_modulus(stress[: peak + 1], strain[: peak + 1], recipe.fit_lower, recipe.fit_upper)
    corrected = strain - line.origin
    fracture = find_fracture(stress, peak, recipe.break_drop)
    end = stress.size - 1 if fracture is None else fracture
    start = int(np.argmax(stress > recipe.fit_upper))
    proof = None
    if line.correlation >= NO_LINE:
        proof = find_proof(stress[: end + 1], strain[: end + 1], line, start, recipe.offset)
    at_peak = StressPoint(float(corrected[peak]), float(stress[peak]), peak)
    at_end = (
        None
        if fracture is None
        else StressPoint(float(corrected[fracture]), float(stress[fracture]), fracture)
    )
    return TensionResult(
        modulus=line,
        proof=proof,
        strength=at_peak,
        plastic_at_strength=at_peak.strain - at_peak.stress / line.slope,
        total_at_strength=at_peak.strain,
        fracture=at_end,
        elongation_after_break=(
            None if at_end is None else at_end.strain - at_end.stress / line.slope
        ),
        energy=float(np.trapezoid(stress[: end + 1], strain[: end + 1])),
        notes=_notes(line, proof, fracture, int(dropouts.sum()), recipe),
    )


def _notes(
    line: ModulusLine,
    proof: StressPoint | None,
    fracture: int | None,
    dropouts: int,
    recipe: TensionRecipe,
) -> tuple[str, ...]:
    notes = []
    if dropouts:
        notes.append(
            f"Left out: {dropouts} sample{'s' * (dropouts > 1)} in which the force was away for "
            "a moment. Look at its cable and plug."
        )
    if line.correlation < STRAIGHT:
        notes.append(
            f"The elastic line is not straight, r² is {line.correlation:.4f} where "
            f"{STRAIGHT:g} is asked for. Move the fit range, or check the extensometer."
        )
    if proof is None:
        notes.append(_why_no_proof(line, recipe))
    elif recipe.fit_upper > proof.stress:
        notes.append(
            f"The fit range ends at {recipe.fit_upper / 1e6:.4g} MPa, above the proof strength: "
            "the line is not elastic throughout. Move its upper end down."
        )
    if fracture is None:
        notes.append(
            "No elongation after break: the force never fell by "
            f"{recipe.break_drop * 100:.3g} % suddenly, so the coupon did not part in this run."
        )
    return tuple(notes)


def _why_no_proof(line: ModulusLine, recipe: TensionRecipe) -> str:
    if line.correlation < NO_LINE:
        return "No proof strength: there is no straight elastic line to be parallel to."
    return (
        f"No proof strength: the curve never crosses the {recipe.offset * 100:.3g} % offset "
        "line. The run ended before the material yielded, or the fit range is not elastic."
    )
