"""Filters against their analytic response and SciPy's."""

import math

import numpy as np
import pytest
from scipy.signal import besselap, buttap, sosfilt, sosfilt_zi
from yoke_core.errors import SignalError
from yoke_core.signals.filter_design import (
    Band,
    Family,
    FilterDesign,
    MainsDesign,
    delay,
    response,
    settling_samples,
)
from yoke_core.signals.graph import Measured, SignalGraph, compute
from yoke_core.signals.nodes.filters import Filter, filter_both_ways

RATE = 1000.0
X = Measured("x")


def filtered(design, x, rate=RATE):
    return compute(SignalGraph({"out": Filter(design, (X,))}), {"x": np.asarray(x)}, rate)["out"]


def analogue(family, order, frequency, corner):
    """The low-pass as an analogue circuit has it, its corner prewarped like the digital one's."""
    _, poles, gain = buttap(order) if family is Family.BUTTERWORTH else besselap(order, norm="mag")
    warped = math.tan(math.pi * frequency / RATE) / math.tan(math.pi * corner / RATE)
    return gain / np.prod(1j * warped - np.asarray(poles))


@pytest.mark.parametrize("family", Family)
@pytest.mark.parametrize("order", range(1, 9))
def test_a_low_pass_is_the_analogue_one(family, order):
    sections = FilterDesign(Band.LOW, (40.0,), order, family).sections(RATE)
    for frequency in (1.0, 20.0, 40.0, 100.0, 300.0):
        wanted = analogue(family, order, frequency, 40.0)
        (found,) = response(sections, np.array([frequency]), RATE)
        assert found == pytest.approx(wanted, rel=1e-6, abs=1e-12)


@pytest.mark.parametrize("band", Band)
@pytest.mark.parametrize("order", [1, 4, 8])
def test_each_corner_is_3_db_down(band, order):
    corners = (40.0,) if band in (Band.LOW, Band.HIGH) else (40.0, 120.0)
    sections = FilterDesign(band, corners, order).sections(RATE)
    assert abs(response(sections, np.array(corners), RATE)) == pytest.approx(math.sqrt(0.5), 1e-6)


@pytest.mark.parametrize("family", Family)
def test_a_sine_comes_out_with_its_amplitude_and_phase(family):
    design = FilterDesign(Band.LOW, (40.0,), 4, family)
    t = np.arange(4000) / RATE
    found = filtered(design, np.sin(2 * np.pi * 25 * t))
    (ratio,) = response(design.sections(RATE), np.array([25.0]), RATE)
    wanted = abs(ratio) * np.sin(2 * np.pi * 25 * t + np.angle(ratio))
    assert found[1000:] == pytest.approx(wanted[1000:], abs=1e-6)


@pytest.mark.parametrize(("band", "corners"), [(Band.LOW, (40.0,)), (Band.BETWEEN, (5.0, 90.0))])
def test_it_gives_what_scipy_gives(band, corners):
    design = FilterDesign(band, corners, 5)
    x = np.random.default_rng(1).normal(size=3000)
    sections = design.sections(RATE)
    wanted, _ = sosfilt(sections, x, zi=sosfilt_zi(sections) * x[0])
    found, settling = filtered(design, x), settling_samples(sections)
    assert np.isnan(found[:settling]).all()
    assert found[settling:] == pytest.approx(wanted[settling:], abs=1e-9)


def test_a_slow_change_is_late_by_the_delay():
    design = FilterDesign(Band.LOW, (40.0,), 4)
    late = delay(design.sections(RATE), 0.0, RATE)
    assert late == pytest.approx(2.6131 / (2 * math.pi * 40), rel=1e-2)  # of the analogue one
    ramp = np.arange(2000) / RATE
    assert (ramp - filtered(design, ramp))[-1] == pytest.approx(late, rel=1e-6)


@pytest.mark.parametrize("order", [1, 2, 4, 8])
@pytest.mark.parametrize("family", Family)
def test_once_it_has_settled_a_step_is_there(order, family):
    sections = FilterDesign(Band.LOW, (30.0,), order, family).sections(RATE)
    step = sosfilt(sections, np.ones(2000))
    assert abs(step[settling_samples(sections) :] - 1).max() < 2e-3


def test_mains_and_its_multiples_are_gone_and_the_rest_stays():
    sections = MainsDesign(50.0).sections(RATE)
    stops = np.array([50.0, 100.0, 450.0])
    assert abs(response(sections, stops, RATE)).max() < 1e-6
    assert abs(response(sections, np.array([2.0, 75.0]), RATE)) == pytest.approx(1.0, abs=0.01)
    assert abs(response(sections, np.array([51.0]), RATE)) == pytest.approx(0.707, abs=0.02)


def test_both_ways_a_corner_counts_twice_and_nothing_is_late():
    t = np.arange(6000) / RATE
    for frequency, ratio in ((40.0, 0.5), (4.0, 1.0)):
        x = np.sin(2 * np.pi * frequency * t)
        found = filter_both_ways(FilterDesign(Band.LOW, (40.0,), 4), x, RATE)
        assert found[2000:4000] == pytest.approx(ratio * x[2000:4000], abs=1e-3)


def test_both_ways_what_is_not_known_divides_a_signal():
    x = np.ones(1000)
    x[500], x[505] = math.nan, math.inf
    found = filter_both_ways(FilterDesign(Band.LOW, (100.0,), 2), x, RATE)
    assert np.isnan(found[500:506]).all()  # the piece between is too short
    assert found[:500] == pytest.approx(1.0)
    assert found[506:] == pytest.approx(1.0)


@pytest.mark.parametrize(
    ("band", "corners", "order", "words"),
    [
        (Band.LOW, (40.0,), 0, "order 0"),
        (Band.LOW, (40.0,), 9, "order 9"),
        (Band.LOW, (0.0,), 2, "above 0 Hz"),
        (Band.LOW, (math.nan,), 2, "above 0 Hz"),
        (Band.LOW, (math.inf,), 2, "above 0 Hz"),
        (Band.LOW, (10.0, 20.0), 2, "one corner"),
        (Band.BETWEEN, (40.0,), 2, "two corners"),
        (Band.STOP, (40.0, 30.0), 2, "the lower one first"),
    ],
)
def test_a_filter_that_cannot_be_is_named(band, corners, order, words):
    with pytest.raises(SignalError, match=words):
        FilterDesign(band, corners, order)


@pytest.mark.parametrize("design", [FilterDesign(Band.LOW, (600.0,)), MainsDesign(600.0)])
def test_a_corner_above_half_the_rate_is_refused_when_the_rate_is_known(design):
    with pytest.raises(SignalError, match="600 Hz is too high for 1000 samples a second"):
        Filter(design, (X,)).start(RATE)
