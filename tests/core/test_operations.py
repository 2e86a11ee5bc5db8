"""Operations on stored signals: any division into blocks gives what the whole-array forms give."""

import itertools

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from yoke_core.corrections.operations import (
    Block,
    BothWays,
    Despike,
    Detrend,
    Linear,
    Shift,
    ZeroOnWindow,
)
from yoke_core.corrections.samples import despike, detrend, zero_on_window
from yoke_core.errors import SignalError
from yoke_core.signals.filter_design import Band, FilterDesign
from yoke_core.signals.nodes.filters import filter_both_ways

RATE = 100.0
LOW = FilterDesign(Band.LOW, (20.0,), 2)


def divided(signal, cuts, gaps=()):
    """A signal in blocks that end at some places; a gap lies before each of ``gaps``."""
    edges = sorted({0, *cuts, *gaps, len(signal)})
    return [
        Block(a, np.asarray(signal[a:b], dtype=float), a not in {0, *gaps})
        for a, b in itertools.pairwise(edges)
        if a < b
    ]


def run(operation, blocks, rate=RATE):
    found = list(operation.run(lambda: iter(blocks), rate))
    places = [b.first for b in found]
    ends = [b.first + len(b.values) for b in found]
    assert places == [0, *ends[:-1]]  # nothing twice, nothing left out
    return np.concatenate([b.values for b in found])


def noise(size, seed=1):
    x = np.random.default_rng(seed).normal(size=size).cumsum()
    x[:: size // 7 + 1] += 40
    return x


WHOLE = [
    (Despike(3), lambda x: despike(x, 3)),
    (BothWays(LOW), lambda x: filter_both_ways(LOW, x, RATE)),
    (Detrend(), detrend),
    (Linear(2.0, -1.0), lambda x: 2 * x - 1),
]


@pytest.mark.parametrize(("operation", "whole"), WHOLE)
@settings(max_examples=30, deadline=None)
@given(
    cuts=st.sets(st.integers(1, 899), max_size=12), gaps=st.sets(st.integers(1, 899), max_size=2)
)
def test_blocks_make_no_difference(operation, whole, cuts, gaps):
    signal = noise(900)
    found = run(operation, divided(signal, cuts, gaps))
    pieces = np.split(signal, sorted(gaps))
    expected = np.concatenate([whole(p) for p in pieces if len(p)])
    scale = np.nanmax(np.abs(signal))
    assert found == pytest.approx(expected, abs=2e-7 * scale, nan_ok=True)


@settings(max_examples=30, deadline=None)
@given(cuts=st.sets(st.integers(1, 399), max_size=8), shift=st.floats(-0.5, 0.5))
def test_a_shifted_sine_is_that_sine_later(cuts, shift):
    times = np.arange(400) / RATE
    found = run(Shift(shift), divided(np.sin(2 * np.pi * times), cuts))
    known = np.isfinite(found)
    assert found[known] == pytest.approx(np.sin(2 * np.pi * (times - shift))[known], abs=2e-4)
    assert known.sum() >= 400 - abs(shift) * RATE - 2


def test_unknown_and_clipped_samples_stay_what_they_are():
    signal = noise(300)
    signal[50], signal[60] = np.nan, np.inf
    for operation in (Despike(2), Detrend(), Linear(3.0)):
        found = run(operation, divided(signal, {40, 55, 200}))
        assert np.isnan(found[50]) and found[60] == np.inf


def test_zero_is_taken_in_the_window_alone():
    signal = noise(500)
    found = run(ZeroOnWindow(90, 130), divided(signal, {100, 120, 300}))
    assert found == pytest.approx(zero_on_window(signal, 90, 130), abs=1e-9)
    with pytest.raises(SignalError, match="no known sample"):
        run(ZeroOnWindow(600, 700), divided(signal, {100}))


def test_a_large_offset_costs_a_trend_no_digits():
    signal = 1e9 + 1e-3 * np.arange(100_000)
    found = run(Detrend(), divided(signal, set(range(1000, 100_000, 1000))))
    assert np.abs(found).max() < 1e-5


@pytest.mark.parametrize(
    ("operation", "rate", "said"),
    [
        (Despike(0), RATE, "1 to 5000"),
        (BothWays(FilterDesign(Band.LOW, (1e-3,), 8)), 50_000.0, "more than can be held"),
        (BothWays(FilterDesign(Band.LOW, (60.0,))), RATE, "too high"),
        (Shift(1e6), RATE, "more than can be held"),
    ],
)
def test_what_has_no_meaning_is_refused(operation, rate, said):
    with pytest.raises(SignalError, match=said):
        list(operation.run(lambda: iter([Block(0, np.zeros(10), False)]), rate))
