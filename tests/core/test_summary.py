"""Statistics and spectra of stretches: closed forms, whole arrays, any division into pieces."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import signal
from yoke_core.errors import SummaryError
from yoke_core.spectrum.averaged import WINDOWS, AveragedSpectrum, octave_bands
from yoke_core.summary.stretch import StretchStatistics

RATE = 1000.0


def statistics_of(values, sizes=(10**9,), level=None, step=0.1):
    found, times = StretchStatistics(step, level), np.arange(len(values)) * step
    at = i = 0
    while at < len(values):
        size = sizes[i % len(sizes)]
        found.push(times[at : at + size], values[at : at + size])
        at, i = at + size, i + 1
    return found.finish()


values = st.lists(
    st.floats(-1e6, 1e6) | st.sampled_from([np.nan, np.inf]), min_size=2, max_size=80
).filter(lambda x: np.isfinite(x).any())


@given(values, st.lists(st.integers(1, 9), min_size=1, max_size=5), st.floats(-1e6, 1e6))
def test_pieces_come_to_what_the_whole_array_does(numbers, sizes, level):
    x = np.array(numbers)
    known = x[np.isfinite(x)]
    found = statistics_of(x, sizes, level)
    scale = max(1.0, np.abs(known).max())
    assert found.count == len(known)
    assert found.left_out == len(x) - len(known)
    assert (found.lowest, found.highest) == (known.min(), known.max())
    assert found.mean == pytest.approx(known.mean(), abs=1e-12 * scale)
    assert found.rms == pytest.approx(np.sqrt((known**2).mean()), abs=1e-9 * scale)
    if len(known) > 1:
        assert found.deviation == pytest.approx(known.std(ddof=1), abs=1e-7 * scale)
    both = np.isfinite(x[1:]) & np.isfinite(x[:-1])
    area = (0.1 * (x[1:] + x[:-1])[both] / 2).sum()
    assert found.area == pytest.approx(area, abs=1e-9 * scale * len(x))
    assert 0 <= found.above <= found.seconds + 1e-9


def test_large_numbers_that_differ_little_keep_their_deviation():
    x = 1e9 + np.sin(np.arange(100_000))
    assert statistics_of(x, (777,)).deviation == pytest.approx(
        np.sin(np.arange(1e5)).std(), rel=1e-4
    )


def test_a_sine_has_its_closed_form():
    t = np.arange(10_000) * 0.1
    found = statistics_of(2.0 + 3.0 * np.sin(2 * np.pi * t / 50), (640,), level=2.0)
    assert found.mean == pytest.approx(2.0, abs=1e-9)
    assert found.rms == pytest.approx(np.sqrt(4 + 4.5), rel=1e-9)
    assert found.peak_to_peak == pytest.approx(6.0, rel=1e-5)
    assert found.above == pytest.approx(500.0, abs=0.2)
    assert found.area == pytest.approx(2000.0, abs=0.5)


def test_a_straight_line_has_its_slope_and_crosses_where_it_does():
    found = statistics_of(np.arange(11.0), (3,), level=4.5)
    assert found.slope == pytest.approx(10.0)
    assert found.above == pytest.approx(0.55)


def test_no_line_is_drawn_over_a_gap():
    found = StretchStatistics(1.0, level=0.0)
    found.push(np.array([0.0, 1.0]), np.array([1.0, 1.0]))
    found.push(np.array([9.0, 10.0]), np.array([1.0, 1.0]))
    got = found.finish()
    assert (got.seconds, got.area, got.above) == (2.0, 2.0, 2.0)


def test_nothing_has_no_statistics():
    with pytest.raises(SummaryError, match="No sample"):
        statistics_of(np.array([np.nan, np.inf]))


# Spectra


def spectrum_of(x, length, window="hann", sizes=(10**9,)):
    found, at, i = AveragedSpectrum(RATE, length, window), 0, 0
    while at < len(x):
        found.push(x[at : at + sizes[i % len(sizes)]])
        at, i = at + sizes[i % len(sizes)], i + 1
    return found.finish()


@given(st.lists(st.integers(1, 700), min_size=1, max_size=6), st.integers(8, 400))
def test_a_spectrum_is_that_of_a_standard_library_for_any_pieces(sizes, length):
    x = np.random.default_rng(3).normal(5.0, 2.0, 2000)
    found = spectrum_of(x, length, "hann", sizes)
    hz, density = signal.welch(
        x, RATE, "hann", length, noverlap=length - max(1, round(length * 0.5)), detrend="constant"
    )
    np.testing.assert_allclose(found.hz, hz)
    np.testing.assert_allclose(found.density, density, rtol=1e-9, atol=1e-18)


@pytest.mark.parametrize(
    ("window", "within"), [("flat_top", 0.002), ("hann", 0.16), ("none", 0.37)]
)
@pytest.mark.parametrize("off", [0.0, 0.25, 0.5])
def test_the_amplitude_of_a_sine_is_right_within_what_its_window_allows(window, within, off):
    t = np.arange(20_000) / RATE
    x = 4.0 + 3.0 * np.sin(2 * np.pi * (100 + off) * t)
    (hz, amplitude), *_ = spectrum_of(x, 1000, window).peaks(1)
    assert abs(hz - 100 - off) <= 0.5
    assert amplitude == pytest.approx(3.0, rel=within if off else 1e-6)


def test_noise_alone_has_no_peaks_and_hum_in_it_has():
    x = np.random.default_rng(4).normal(0.0, 1.0, 60_000)
    assert spectrum_of(x, 1000).peaks(5) == []
    hum = x + np.sin(2 * np.pi * 50 * np.arange(len(x)) / RATE)
    assert [hz for hz, _ in spectrum_of(hum, 1000).peaks(5)] == [50.0]


@pytest.mark.parametrize("window", list(WINDOWS))
def test_noise_has_its_density_and_a_band_its_rms(window):
    x = np.random.default_rng(1).normal(0.0, 2.0, 400_000)
    found = spectrum_of(x, 2000, window)
    assert np.median(found.density) == pytest.approx(4.0 / (RATE / 2), rel=0.02)
    assert found.rms(0, RATE / 2) == pytest.approx(2.0, rel=0.01)
    assert found.rms(100, 200) == pytest.approx(2.0 * np.sqrt(0.2), rel=0.02)


def test_parts_with_samples_that_have_no_value_are_left_out():
    x = np.random.default_rng(2).normal(size=5000)
    x[2500] = np.inf
    assert spectrum_of(x, 500).parts == 19 - 2
    with pytest.raises(SummaryError, match="long enough and whole"):
        spectrum_of(np.full(2000, np.nan), 500)


def test_octave_bands_hold_the_power_between_their_edges():
    x = np.random.default_rng(5).normal(0.0, 1.0, 200_000)
    bands = octave_bands(spectrum_of(x, 4000))
    middles = [middle for middle, _ in bands]
    assert 99.9 < min(middles, key=lambda m: abs(m - 100)) < 100.1
    for middle, rms in bands:
        if 50 < middle < 400:
            width = middle * (10**0.05 - 10**-0.05)
            assert rms == pytest.approx(np.sqrt(width / (RATE / 2)), rel=0.1)
