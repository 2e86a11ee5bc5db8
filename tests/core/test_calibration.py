"""Calibrations against known loads: worked by hand, and as a thousand would turn out."""

import math
from fractions import Fraction

import numpy as np
import pytest
from yoke_core.calibration.budget import Conditions, budget_at
from yoke_core.calibration.classes import DIN_51309, ISO_376, classify
from yoke_core.calibration.fit import fit
from yoke_core.calibration.series import Point, Series, characteristics
from yoke_core.calibration.weights import force_of_weight, local_gravity
from yoke_core.errors import CalibrationError

LOADS = (2.0, 4.0, 6.0, 8.0, 10.0)  # kN
# Deflections in mV/V as an indicator shows them, 10 kN giving 2 mV/V; the zero is 0.0100.
FIRST = (0.40000, 0.80008, 1.20012, 1.60010, 2.00000)
SECOND = (0.40004, 0.80010, 1.20015, 1.60012, 2.00004)
TURNED = (0.40010, 0.80020, 1.20024, 1.60020, 2.00012)
TURNED_AGAIN = (0.39996, 0.80000, 1.20003, 1.60002, 1.99994)
FALLING = (0.40030, 0.80052, 1.20050, 1.60034, 2.00012)


def points(deflections, loads=LOADS, zero=0.01):
    return tuple(Point(f, f, d + zero) for f, d in zip(loads, deflections, strict=True))


def of_four():
    """Two series at 0°, one each at 120° and 240°, the third with falling loads."""
    return [
        Series(0.0, 0.01, points(FIRST), zero_after=0.01),
        Series(0.0, 0.01, points(SECOND), zero_after=0.0101),
        Series(120.0, 0.01, points(TURNED), points(FALLING), zero_after=0.01),
        Series(240.0, 0.01, points(TURNED_AGAIN), zero_after=0.01),
    ]


def test_iso_376_worked_by_hand():
    found = characteristics(of_four())
    # at 2 kN: mean of the positions, repeatability of the first, reproducibility of the three
    mean = (0.40000 + 0.40010 + 0.39996) / 3
    assert found.deflections[0] == pytest.approx(mean, rel=1e-12)
    assert found.repeatability[0] == pytest.approx(0.00004 / 0.40002, rel=1e-9)  # 0.0100 %
    assert found.reproducibility[0] == pytest.approx(0.00014 / mean, rel=1e-9)  # 0.0350 %
    assert found.reversibility[0] == pytest.approx(0.00020 / 0.40010, rel=1e-9)  # 0.0500 %
    # the zero came back 0.0001 mV/V off in the second series, of 2.00002 at 10 kN
    at_most = (2.00000 + 2.00012 + 1.99994) / 3
    assert found.zero_return == pytest.approx(0.0001 / at_most, rel=1e-9)
    # a line through zero: slope = sum(F X) / sum(X^2)
    x = found.deflections
    slope = sum(f * d for f, d in zip(LOADS, x, strict=True)) / sum(d * d for d in x)
    assert found.curve.coefficients == (0.0, pytest.approx(slope, rel=1e-12))
    off = [(slope * d - f) / f for f, d in zip(LOADS, x, strict=True)]
    assert found.interpolation == pytest.approx(off, abs=1e-12)
    assert found.hysteresis == pytest.approx(0.00032 / at_most, rel=1e-6)
    off = max(abs(d - at_most * f / 10) for f, d in zip(LOADS, x, strict=True))
    assert found.nonlinearity == pytest.approx(off / at_most, rel=1e-9)


def test_its_class_is_that_of_its_worst_characteristic():
    found = characteristics(of_four(), order=2)
    result = classify(found, ISO_376, resolution=0.0005, reference=1e-4, preloads=3)
    worst = {v.characteristic: v for v in result.verdicts}
    assert worst["repeatability"].name == "00"  # 0.010 % within 0.025 %
    assert worst["reproducibility"].name == "00"  # 0.035 % within 0.05 %
    assert worst["reversibility"].name == "00"  # 0.050 % within 0.07 %
    assert result.name == "00"
    assert result.from_load == 2.0  # 4000 resolutions of 0.0005 kN
    assert result.lacks == ("8 loads (there are 5)",)
    poor = classify(found, ISO_376, resolution=0.0005, reference=4e-4, preloads=0)
    assert (poor.name, poor.limited_by) == ("1", "reference")
    assert "3 preloads" in poor.lacks


def test_a_coarse_indication_keeps_small_loads_and_good_classes_out():
    found = characteristics(of_four(), order=2)
    coarse = classify(found, ISO_376, resolution=0.004, reference=1e-4)
    assert (coarse.name, coarse.limited_by, coarse.from_load) == ("0.5", "resolution", 8.0)
    assert classify(found, ISO_376, resolution=0.1, reference=1e-4).name == ""


def test_one_position_is_no_reproducibility_and_is_said():
    found = characteristics(of_four()[:2])
    assert np.isnan(found.reproducibility).all()
    result = classify(found, ISO_376, resolution=0.0005, reference=1e-4)
    assert "3 positions about the axis (there is 1)" in result.lacks
    assert "falling loads or a creep test" in result.lacks


def test_torque_has_classes_of_its_own():
    found = characteristics(of_four(), order=2)
    result = classify(found, DIN_51309, resolution=0.0005, reference=1e-4)
    assert (result.name, result.limited_by) == ("0.05", "")
    assert classify(found, DIN_51309, resolution=0.0005, reference=2e-4).name == "0.1"


def test_the_budget_worked_by_hand():
    found = characteristics(of_four())
    conditions = Conditions(
        reference=2e-4, resolution=0.0006, creep=1e-4,
        temperature_coefficient=5e-5, temperature_change=2.0, reference_drift=1e-4,
    )  # fmt: skip
    budget = budget_at(found, conditions, 4)
    at = dict(zip([t.name for t in budget.terms], budget.terms, strict=True))
    assert at["reference"].contribution == pytest.approx(1e-4 * 10)
    assert at["drift of the reference"].contribution == pytest.approx(1e-4 * 10 / math.sqrt(3))
    assert at["resolution"].contribution == pytest.approx(0.0006 / math.sqrt(6))
    mean = sum(d := (2.00000, 2.00012, 1.99994)) / 3
    squares = sum((x - mean) ** 2 for x in d)
    assert at["reproducibility"].contribution == pytest.approx(math.sqrt(squares / 6) / mean * 10)
    assert at["reproducibility"].dof == 2
    assert at["repeatability"].contribution == pytest.approx(0.00004 / 2.00002 * 10 / math.sqrt(3))
    assert at["zero"].contribution == pytest.approx(0.0001 / mean * 10)
    assert at["creep"].contribution == pytest.approx(1e-4 * 10 / math.sqrt(3))
    assert at["temperature"].contribution == pytest.approx(1e-4 * 10 / math.sqrt(3))
    residuals = found.interpolation * found.loads
    assert at["interpolation"].contribution == pytest.approx(math.sqrt((residuals**2).sum() / 4))
    total = math.sqrt(sum(t.contribution**2 for t in budget.terms))
    assert budget.combined == pytest.approx(total)


def test_loads_by_a_reference_are_carried_to_the_nominal_ones():
    near = tuple(Point(f, f * 1.003, 0.01 + d * 1.003) for f, d in zip(LOADS, FIRST, strict=True))
    exact = characteristics([Series(0.0, 0.01, points(FIRST))])
    found = characteristics([Series(0.0, 0.01, near)])
    assert found.deflections == pytest.approx(exact.deflections, rel=1e-12)


def test_pressing_is_calibrated_as_pulling_is():
    turned = [
        Series(s.rotation, -s.zero, _turned(s.rising), _turned(s.falling), None) for s in of_four()
    ]
    pulled, pressed = characteristics(of_four()), characteristics(turned)
    assert pressed.repeatability == pytest.approx(pulled.repeatability)
    assert pressed.interpolation == pytest.approx(pulled.interpolation)
    assert pressed.curve.coefficients == pytest.approx(pulled.curve.coefficients)


def _turned(found):
    return tuple(Point(-p.nominal, -p.load, -p.signal) for p in found)


@pytest.mark.parametrize(
    ("series", "why"),
    [
        ([Series(0.0, 0.0, points((0.4, 0.8), (2.0, 4.0)))], "needs 3 loads besides zero"),
        ([Series(0.0, 0.0, points((0.4, -0.4, 0.8), (2.0, -2.0, 4.0)))], "both signs"),
        ([Series(0.0, 0.0, points((0.0, 0.0, 0.0), LOADS[:3], 0.0))], "gives a deflection"),
        ([Series(0.0, 0.0, points((math.nan,) * 3, LOADS[:3]))], "gives a deflection"),
    ],
)
def test_what_cannot_be_evaluated_is_said(series, why):
    with pytest.raises(CalibrationError, match=why):
        characteristics(series)


@pytest.mark.parametrize("order", [1, 2, 3])
@pytest.mark.parametrize("through_zero", [True, False])
def test_the_fit_is_that_of_exact_arithmetic(order, through_zero):
    """Normal equations in fractions, for a signal in V/V and a load in N."""
    x = [Fraction(k * k + 3 * k + 1, 10**4) for k in range(1, 8)]
    y = [Fraction(5 * 10**6) * v + (-1) ** i * Fraction(i, 7) for i, v in enumerate(x)]
    powers = range(1 if through_zero else 0, order + 1)
    matrix = [[sum(v ** (p + q) for v in x) for q in powers] for p in powers]
    right = [sum(w * v**p for v, w in zip(x, y, strict=True)) for p in powers]
    exact = _solved(matrix, right)
    found = fit([float(v) for v in x], [float(w) for w in y], order, through_zero=through_zero)
    coefficients = found.coefficients[1:] if through_zero else found.coefficients
    assert coefficients == pytest.approx([float(e) for e in exact], rel=1e-8)


def _solved(matrix, right):
    """Gauss and Jordan in fractions."""
    rows = [[*row, value] for row, value in zip(matrix, right, strict=True)]
    for i in range(len(rows)):
        pivot = rows[i][i]
        rows[i] = [v / pivot for v in rows[i]]
        for j in range(len(rows)):
            if j != i:
                factor = rows[j][i]
                rows[j] = [a - factor * b for a, b in zip(rows[j], rows[i], strict=True)]
    return [row[-1] for row in rows]


def test_a_fit_of_too_few_points_is_refused():
    with pytest.raises(CalibrationError, match="needs 3 different points, and there are 2"):
        fit([1.0, 2.0, 2.0], [1.0, 2.0, 3.0], 2)
    with pytest.raises(CalibrationError, match="order"):
        fit([1.0, 2.0], [1.0, 2.0], 4)


def test_forces_of_weights():
    """Conventional masses hang in air: 150 parts in a million lighter."""
    assert force_of_weight(100.0, 9.81) == pytest.approx(981.0 * (1 - 1.2 / 8000))
    assert local_gravity(90.0) == pytest.approx(9.8321863685, rel=1e-9)
    assert local_gravity(52.0, 100.0) == pytest.approx(9.8122, abs=2e-4)
    assert local_gravity(52.0) - local_gravity(52.0, 1000.0) == pytest.approx(3.086e-3, rel=1e-3)
    with pytest.raises(CalibrationError, match="mass"):
        force_of_weight(0.0, 9.81)
    with pytest.raises(CalibrationError, match="No such place"):
        local_gravity(91.0)


RESOLUTION = 0.0002  # kN


def calibrated(random):
    """A made-up cell calibrated in three positions: is a true load within what is stated?"""
    output = 0.2 * (1 + random.normal(0, 1e-3))  # mV/V a kN
    reference = random.normal(0, 1e-4)  # by which all loads were off
    turned = dict(zip((0.0, 120.0, 240.0), random.normal(0, 3e-5, 3), strict=True))
    series = []
    for rotation in (0.0, 0.0, 120.0, 240.0):
        noise = random.normal(0, 1.5e-5, len(LOADS))
        shown = np.array(LOADS) * (1 + reference) * output * (1 + turned[rotation] + noise)
        rounded = np.round(shown / output / RESOLUTION) * RESOLUTION * output
        series.append(Series(rotation, 0.0, points(rounded, zero=0.0)))
    found = characteristics(series)
    place = int(random.integers(len(LOADS)))
    stated = budget_at(found, Conditions(reference=2e-4, resolution=RESOLUTION), place).expanded()
    return abs(float(found.curve.apply(LOADS[place] * output)) - LOADS[place]) <= stated


def test_the_stated_uncertainty_covers_the_truth_as_often_as_it_says():
    random = np.random.default_rng(20261130)
    share = np.mean([calibrated(random) for _ in range(1000)])
    print(f"\n{share * 1000:.0f} of 1000 calibrations cover the true load")
    assert 0.93 <= share <= 0.97
