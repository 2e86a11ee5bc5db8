"""Budgets against the examples of the GUM, and against Monte Carlo."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from yoke_core.calibration.fit import fit
from yoke_core.errors import UncertaintyError
from yoke_core.uncertainty.budget import Budget, Component, Distribution, coverage_factor, limits
from yoke_core.uncertainty.monte_carlo import propagate

# GUM H.1.7: an end gauge by comparison, nm
END_GAUGE = [
    Component("standard", 25.0, dof=18),
    Component("difference", 9.7, dof=25.6),
    Component("expansion", 0.58e-6, sensitivity=5e6, dof=50),
    Component("temperature", 0.029, sensitivity=575.0, dof=2),
]
# GUM H.3: corrections of a thermometer (°C) at readings (°C)
READINGS = [21.521, 22.012, 22.512, 23.003, 23.507, 23.999, 24.513, 25.002, 25.503, 26.010, 26.511]
MILLIKELVIN = [-171, -169, -166, -159, -164, -165, -156, -157, -159, -161, -160]
CORRECTIONS = [m / 1000 for m in MILLIKELVIN]


def test_the_end_gauge_of_the_gum():
    gauge = Budget(END_GAUGE)
    assert gauge.combined == pytest.approx(32, abs=0.5)
    assert math.floor(gauge.dof) == 16
    assert gauge.coverage_factor(0.99) == pytest.approx(2.92, abs=0.005)
    assert gauge.expanded(0.99) == pytest.approx(93, abs=1)


def test_the_thermometer_of_the_gum():
    line = fit(np.array(READINGS) - 20.0, CORRECTIONS)
    intercept, slope = line.coefficients
    assert (round(intercept, 4), round(slope, 5)) == (-0.1712, 0.00218)
    spread = np.sqrt(np.diag(line.covariance))
    assert (round(spread[0], 4), round(spread[1], 5)) == (0.0029, 0.00067)
    assert line.covariance[0, 1] / spread.prod() == pytest.approx(-0.930, abs=5e-4)
    assert round(line.deviation, 4) == 0.0035
    assert (round(float(line.apply(10.0)), 4), round(float(line.standard(10.0)), 4)) == (
        -0.1494,
        0.0041,
    )


@pytest.mark.parametrize(
    ("dof", "probability", "k"),
    [
        (1, 0.95, 12.71),
        (4, 0.9545, 2.87),
        (10, 0.99, 3.17),
        (50, 0.95, 2.01),
        (math.inf, 0.95, 1.96),
    ],
)
def test_factors_of_table_g_2(dof, probability, k):
    assert coverage_factor(dof, probability) == pytest.approx(k, abs=0.005)


def test_terms_of_one_certificate_move_together():
    apart = Budget([Component("a", 3.0), Component("b", 4.0)])
    together = Budget([Component("a", 3.0, source="C1"), Component("b", 4.0, source="C1")])
    against = Budget([Component("a", 3.0, source="C1"), Component("b", 4.0, -1.0, source="C1")])
    assert (apart.combined, together.combined, against.combined) == (5.0, 7.0, 1.0)


@pytest.mark.parametrize(
    ("distribution", "standard"),
    [
        ("rectangular", 1 / math.sqrt(3)),
        ("triangular", 1 / math.sqrt(6)),
        ("arcsine", 1 / math.sqrt(2)),
    ],
)
def test_limits_are_turned_into_a_standard_uncertainty(distribution, standard):
    term = limits("x", 1.0, distribution=Distribution(distribution))
    assert term.standard == pytest.approx(standard)
    drawn = propagate(lambda x: x[0], [term])
    assert drawn.standard == pytest.approx(standard, rel=0.01)


def test_drawing_agrees_with_the_budget_of_a_product_and_keeps_sources_together():
    terms = [
        Component("force", 0.02, sensitivity=5.0, source="C1"),
        Component("length", 0.01, sensitivity=2.0, source="C1"),
        limits("rounding", 0.05, sensitivity=1.0),
        Component("few", 0.02, sensitivity=1.0, dof=8, distribution=Distribution.STUDENT),
    ]
    budget = Budget(terms)
    drawn = propagate(lambda x: (2.0 + x[0]) * (5.0 + x[1]) + x[2] + x[3], terms)
    assert drawn.mean == pytest.approx(10.0, abs=0.002)
    assert drawn.standard == pytest.approx(budget.combined, rel=0.02)
    half = (drawn.highest - drawn.lowest) / 2
    assert half == pytest.approx(budget.expanded(), rel=0.03)
    again = propagate(lambda x: (2.0 + x[0]) * (5.0 + x[1]) + x[2] + x[3], terms)
    assert again == drawn


# Down to where floating point keeps its digits.
STANDARDS = st.just(0.0) | st.floats(1e-100, 1e6)


@given(st.lists(STANDARDS, min_size=1, max_size=8), st.floats(1e-3, 1e3))
def test_the_combined_uncertainty_scales_and_is_never_below_its_largest_term(standards, factor):
    budget = Budget([Component(str(i), u, dof=5) for i, u in enumerate(standards)])
    scaled = Budget([Component(str(i), u * factor, dof=5) for i, u in enumerate(standards)])
    assert budget.combined >= max(standards) * (1 - 1e-12)
    assert scaled.combined == pytest.approx(budget.combined * factor, rel=1e-9, abs=1e-300)
    assert budget.dof >= 5 * (1 - 1e-9) or budget.combined == 0


@pytest.mark.parametrize(("standard", "dof"), [(-1.0, 1), (math.nan, 1), (math.inf, 1), (1.0, 0)])
def test_what_is_no_uncertainty_is_refused(standard, dof):
    with pytest.raises(UncertaintyError, match="x"):
        Component("x", standard, dof=dof)
