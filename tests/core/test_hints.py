"""What looks wrong with a recorded signal."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from yoke_core.corrections.hints import (
    UNIT_SLIPS,
    drift_with_temperature,
    slip_of_angle,
    slip_of_ratio,
    slip_of_strain,
)


@given(st.sampled_from(UNIT_SLIPS), st.floats(0.75, 1.25))
def test_a_ratio_near_a_slip_is_that_slip(slip, near):
    assert slip_of_ratio(slip * near) == slip


@pytest.mark.parametrize("ratio", [1.0, 0.2, 7.0, 0.0, -1e3, math.inf, math.nan])
def test_other_ratios_are_none(ratio):
    assert slip_of_ratio(ratio) is None


@pytest.mark.parametrize(
    ("peak", "slip"),
    [(0.04, None), (0.06, 1e2), (1.5, 1e2), (2.5, 1e3), (15.0, 1e3), (800.0, 1e6), (1e9, None)],
)
def test_a_strain_that_is_none_was_in_another_unit(peak, slip):
    assert slip_of_strain(peak) == slip


def test_an_angle_of_many_turns_was_in_degrees():
    assert slip_of_angle(2 * math.pi) is None
    assert slip_of_angle(45.0) == pytest.approx(57.2958, rel=1e-5)


def test_a_drift_is_one_with_temperature_only_where_that_explains_it():
    t, dice = np.linspace(293.0, 295.0, 200), np.random.default_rng(1)
    warm = 25e-6 * (t - 293) + 1e-6 * dice.normal(size=200)
    assert drift_with_temperature(warm, t) == pytest.approx(25e-6, rel=0.02)
    assert drift_with_temperature(warm + 1e-4 * np.sin(np.arange(200)), t) is None
    assert drift_with_temperature(warm, np.full(200, 293.0)) is None
    assert drift_with_temperature(np.zeros(200), t) is None
    warm[3], t[7] = np.nan, np.inf
    assert drift_with_temperature(warm, t) == pytest.approx(25e-6, rel=0.02)
