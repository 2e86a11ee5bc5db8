"""Instants to a fraction of a sample, in pieces of any size."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from yoke_core.summary.instants import Crossing, Peak

RATE = 100.0


def pieces(cuts, *columns):
    edges = [0, *sorted(cuts), len(columns[0])]
    return [[c[a:b] for c in columns] for a, b in pairwise(edges)]


CUTS = st.lists(st.integers(0, 400), max_size=5)


@given(CUTS, st.floats(0.31, 1.9), st.booleans())
def test_a_line_crosses_where_it_does(cuts, at, rising):
    t = np.arange(400) / RATE
    line = (t - at) * (3.0 if rising else -3.0)
    found = Crossing(0.0, 0.5, rising=rising)
    for seconds, values in pieces(cuts, t, line):
        found.push(seconds, values)
    assert found.at == pytest.approx(at, abs=1e-9)


@given(CUTS)
def test_noise_about_the_level_is_no_crossing_before_it_was_well_beyond(cuts):
    t = np.arange(400) / RATE
    noise = 0.1 * np.sin(40 * t)
    pull = np.where(t < 2, -2.0 * ((t > 1) & (t < 1.5)), 5 * (t - 2)) + noise
    found = Crossing(0.0, 1.0, rising=True)
    for seconds, values in pieces(cuts, t, pull):
        found.push(seconds, values)
    # From well below it jumps to the noise, which then passes the level at a tenth of its waves.
    assert found.at == pytest.approx(20 * np.pi / 40, abs=1e-3)


def test_no_line_is_drawn_beside_what_has_no_value_and_never_is_none():
    t = np.arange(6) / RATE
    found = Crossing(0.0, 0.0, rising=True)
    assert not found.push(t, np.array([-1, np.nan, 1, 2, np.inf, 1]))
    assert found.at is None
    assert found.push(t + 1, np.array([-1.0, 1.0, 1, 1, 1, 1]))
    assert found.at == pytest.approx(1.005)


@given(CUTS, st.floats(0.5, 3.4), st.booleans())
def test_a_peak_lies_between_samples(cuts, at, lowest):
    t = np.arange(400) / RATE
    wave = np.cos(2 * np.pi * 0.1 * (t - at)) * (-1 if lowest else 1)
    found = Peak(lowest=lowest)
    for seconds, values in pieces(cuts, t, wave):
        found.push(seconds, values)
    assert found.finish() == pytest.approx(at, abs=1e-5)


def test_a_peak_beside_a_gap_at_an_end_or_of_nothing():
    found = Peak()
    found.push(np.array([0.0, 1.0, 2.0]), np.array([3.0, 2.0, 1.0]))
    assert found.finish() == 0.0
    gap = Peak()
    gap.push(np.array([0.0, 1.0, 9.0]), np.array([1.0, 3.0, 2.9]))
    assert gap.finish() == 1.0
    none = Peak()
    none.push(np.array([0.0]), np.array([np.inf]))
    assert none.finish() is None
