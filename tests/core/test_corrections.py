"""Corrections of gauges against worked examples, operations on samples against closed forms."""

import math

import numpy as np
import pytest
from yoke_core.corrections.samples import despike, detrend, resample, zero_on_window
from yoke_core.corrections.strain import (
    gauge_factor_at_temperature,
    thermal_output,
    transverse_sensitivity,
)
from yoke_core.errors import SignalError
from yoke_core.signals.graph import Measured, SignalGraph, compute

E, T = Measured("e"), Measured("t")


def of(node, strain, celsius=20.0):
    readings = {"e": np.array([strain]), "t": np.array([celsius + 273.15])}
    return compute(SignalGraph({"out": node}), readings, 1.0)["out"][0]


# Of a made-up lot: -31.8 + 2.77 T - 0.0655 T^2 + 0.000328 T^3 (um/m, T in °C), k 2.08.
SHEET = [-31.8e-6, 2.77e-6, -6.55e-8, 3.28e-10]


@pytest.mark.parametrize(
    ("celsius", "apparent"),
    [(0.0, -31.8e-6), (20.0, 0.024e-6), (80.0, -61.464e-6)],
)
def test_thermal_output_is_taken_off_in_the_gauge_factor_in_use(celsius, apparent):
    found = of(thermal_output(E, T, SHEET, 2.08), 500e-6, celsius)
    assert found == pytest.approx(500e-6 - apparent * 2.0 / 2.08, rel=1e-9)


@pytest.mark.parametrize("coefficients", [[], [1e-6] * 7])
def test_a_thermal_output_has_coefficients(coefficients):
    with pytest.raises(SignalError, match="1 to 6 coefficients"):
        thermal_output(E, T, coefficients, 2.0)


def test_a_gauge_factor_that_rises_makes_the_reading_too_large():
    node = gauge_factor_at_temperature(E, T, 93e-6)
    assert of(node, 1000e-6, 23.0) == pytest.approx(1000e-6)
    assert of(node, 1000e-6, 123.0) == pytest.approx(1000e-6 / 1.0093)


@pytest.mark.parametrize(
    ("sensitivity", "across", "error"),
    [(0.0, -0.3, 0.0), (0.01, -0.285, 0.0), (0.01, 1.0, 1.285e-2 / 0.99715), (-0.02, 0.5, None)],
)
def test_the_strain_across_a_grid_is_taken_off(sensitivity, across, error):
    """A reading is strain * (1 + K across) / (1 - 0.285 K)."""
    read = 800e-6 * (1 + sensitivity * across) / (1 - 0.285 * sensitivity)
    assert of(transverse_sensitivity(E, sensitivity, across), read) == pytest.approx(800e-6)
    if error is not None:
        assert read / 800e-6 - 1 == pytest.approx(error, abs=1e-12)


def test_spikes_go_and_all_else_stays():
    t = np.arange(3000) / 1000
    clean = np.sin(2 * np.pi * 3 * t) + 0.001 * np.random.default_rng(3).normal(size=t.size)
    spiked = clean.copy()
    spiked[[5, 700, 701, 2999]] += [3.0, -2.0, 4.0, 5.0]
    spiked[1000], spiked[1500] = math.nan, math.inf
    found = despike(spiked, reach=10, deviations=5.0)
    assert found[[5, 700, 701, 2999]] == pytest.approx(clean[[5, 700, 701, 2999]], abs=0.1)
    assert math.isnan(found[1000]) and found[1500] == math.inf
    changed = np.flatnonzero(~((found == spiked) | np.isnan(spiked)))
    assert len(changed) < 30
    assert np.abs(found - clean)[np.isfinite(spiked)].max() < 0.1


@pytest.mark.parametrize(("reach", "deviations"), [(0, 4.0), (5001, 4.0), (3, 0.0), (3, math.nan)])
def test_spikes_are_looked_for_within_bounds(reach, deviations):
    with pytest.raises(SignalError, match="to each side"):
        despike(np.ones(5), reach, deviations)


def test_a_line_is_taken_off_whatever_is_missing():
    x = 3.0 + 0.5 * np.arange(100)
    x[10], x[20] = math.nan, -math.inf
    found = detrend(x)
    assert np.abs(found[np.isfinite(x)]).max() < 1e-9
    assert math.isnan(found[10]) and found[20] == -math.inf
    assert detrend(np.array([1.0, math.nan]))[0] == 1.0


def test_a_window_of_nothing_is_no_zero():
    x = np.array([1.0, math.nan, math.inf, 5.0])
    assert zero_on_window(x, 0, 3)[3] == 4.0
    for first, last in ((1, 3), (4, 9)):
        with pytest.raises(SignalError, match="no known sample"):
            zero_on_window(x, first, last)


def test_another_rate_keeps_what_it_can_hold_and_nothing_else():
    t = np.arange(4000) / 1000
    slow, fast = np.sin(2 * np.pi * 5 * t), np.sin(2 * np.pi * 180 * t)
    found = resample(slow + fast + 7.0, 1000.0, 100.0)
    wanted = np.sin(2 * np.pi * 5 * np.arange(400) / 100) + 7.0
    assert found[50:-50] == pytest.approx(wanted[50:-50], abs=5e-3)
    assert len(resample(slow, 1000.0, 1500.0)) == 6000


@pytest.mark.parametrize(
    ("signal", "to_hz", "words"),
    [
        ([1.0, math.nan], 100.0, "not known"),
        ([1.0, math.inf], 100.0, "not known"),
        ([1.0, 2.0], 0.0, "above zero"),
        ([1.0, 2.0], math.inf, "above zero"),
        ([1.0, 2.0], 1e-9, "too low"),
    ],
)
def test_another_rate_that_cannot_be_is_named(signal, to_hz, words):
    with pytest.raises(SignalError, match=words):
        resample(np.array(signal), 1000.0, to_hz)
