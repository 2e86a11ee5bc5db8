"""One device's signal at another's instants."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from yoke_core.timebase.interpolation import Interpolation, anti_alias, interpolate


def test_a_sine_between_two_devices_that_drift_apart_for_an_hour():
    """13 Hz, 250 samples a second against 1000, the clocks 60 ppm apart."""
    n = np.arange(3600 * 250, 3602 * 250)
    times = n / 250 * (1 + 60e-6)
    at = np.arange(3601_000, 3601_500) / 1000.0
    found = interpolate(times, np.sin(2 * np.pi * 13 * times), at, 1 / 250)
    assert found == pytest.approx(np.sin(2 * np.pi * 13 * at), abs=1e-3)


def test_a_cubic_is_kept_exactly_and_beside_a_gap_the_line_is_taken():
    t = np.array([0.0, 1, 2, 3, 6, 7, 8, 9])
    found = interpolate(t, t**3, np.array([0.5, 1.5, 2.5, 4.0, 6.5, 7.5]), 1.0)
    assert found == pytest.approx([0.5, 1.5**3, 17.5, math.nan, 279.5, 7.5**3], nan_ok=True)


def test_at_a_sample_its_value_stands():
    t, v = np.arange(4.0), np.array([1.0, math.nan, 3.0, 4.0])
    assert interpolate(t, v, t, 1.0) == pytest.approx(v, nan_ok=True)


def test_beside_a_clipped_sample_it_is_clipped():
    v = np.array([1.0, 2.0, math.inf, 2.0, 1.0])
    found = interpolate(np.arange(5.0), v, np.array([0.5, 1.5, 2.0, 2.5, 3.5]), 1.0)
    assert found == pytest.approx([1.5, math.inf, math.inf, math.inf, 1.5])


def test_what_is_outside_is_not_known():
    found = interpolate(np.arange(3.0), np.ones(3), np.array([-0.1, 2.1]), 1.0)
    assert np.isnan(found).all()
    assert np.isnan(interpolate(np.array([1.0]), np.ones(1), np.array([1.0]), 1.0)).all()


@given(st.data())
def test_while_samples_come_it_gives_the_same_in_any_order_of_arrival(data):
    times = np.cumsum(data.draw(st.lists(st.sampled_from([1.0, 1.0, 1.0, 4.0]), min_size=4)))
    values = np.sin(times)
    at = np.sort(data.draw(st.lists(st.floats(0.0, float(times[-1]) + 2), min_size=1, unique=True)))
    live, found = Interpolation(1.0), []
    signal, instants = 0, 0
    while signal < len(times) or instants < len(at):
        more = data.draw(st.integers(1, 4))
        if instants >= len(at) or (signal < len(times) and data.draw(st.booleans())):
            live.push_signal(times[signal : signal + more], values[signal : signal + more])
            signal += more
        else:
            live.push_instants(at[instants : instants + more])
            instants += more
        found.append(live.take())
    whole = interpolate(times, values, at, 1.0)
    given_so_far = np.concatenate(found)
    np.testing.assert_array_equal(given_so_far, whole[: len(given_so_far)])
    assert len(given_so_far) == np.searchsorted(at, times[-2], side="right")


def test_what_does_not_come_is_given_up_and_memory_stays_bounded():
    live = Interpolation(0.01)
    for block in range(200):
        t = block + np.arange(100) / 100
        live.push_signal(t, t)
        live.push_instants(t + 0.005)
        found = live.take()
        assert len(found) >= 98
    assert len(live._times) < 20
    live.push_instants(200 + np.arange(50) / 100)
    assert len(live.take()) == 0
    assert np.isnan(live.take(give_up_before=200.25)[2:]).all()
    assert len(live._instants) == 25


def test_a_rate_that_falls_has_a_filter_before_it():
    assert anti_alias(100.0).corners_hz == (40.0,)
