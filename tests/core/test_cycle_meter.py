"""Cycles counted as they are done."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from yoke_core.errors import FatigueError
from yoke_core.fatigue.cycle_meter import CycleMeter

RATE, FREQUENCY = 1000.0, 6.0
SECONDS = np.arange(20_000) / RATE
SINE = 1000 + 800 * np.sin(2 * np.pi * FREQUENCY * SECONDS)


def test_a_sine_has_as_many_cycles_as_it_swings():
    meter = CycleMeter(200, 1800)
    assert meter.push(SINE) == round(20 * FREQUENCY) - 1  # the last one is not high again yet
    assert meter.held == pytest.approx((200, 1800), rel=1e-3)


@given(st.lists(st.integers(1, 700), min_size=1, max_size=60))
def test_blocks_of_any_size_count_alike(sizes):
    ends = np.cumsum(sizes)
    whole, parts = CycleMeter(200, 1800), CycleMeter(200, 1800)
    whole.push(SINE[: ends[-1]])
    for part in np.split(SINE[: ends[-1]], ends[:-1]):
        parts.push(part)
    assert (parts.cycles, np.isnan(parts.held).all() or parts.held) == (
        whole.cycles,
        np.isnan(whole.held).all() or whole.held,
    )


def test_noise_at_a_gate_is_no_cycle_and_clipped_samples_say_nothing():
    meter = CycleMeter(0, 4)
    assert meter.push([0, 2.9, 3.1, 2.9, 3.1, 2.9, np.inf, -np.inf, np.nan, 3.2, 2.8]) == 1
    assert meter.push([0.9, np.nan, 3.1]) == 2
    assert meter.held == (0.9, 3.2)


def test_a_swing_has_a_size():
    with pytest.raises(FatigueError, match="below the highest"):
        CycleMeter(5, 5)
