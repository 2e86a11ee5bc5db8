from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from yoke_core.errors import FatigueError
from yoke_core.fatigue.life import BasquinCurve, damage_of, goodman
from yoke_core.fatigue.rainflow import RainflowCounter, RangeMeanMatrix, rainflow
from yoke_core.fatigue.turning import TurningPoints, turning_points
from yoke_core.statistics import series

# ASTM E1049-85, figure 6: the worked example of rainflow counting, and its cycles by range.
EXAMPLE = np.array([-2, 1, -3, 5, -1, 3, -4, 4, -2], np.float32)
EXAMPLE_CYCLES = {3: 0.5, 4: 1.5, 6: 0.5, 8: 1.0, 9: 0.5}

histories = arrays(np.float32, st.integers(2, 80), elements=st.integers(-20, 20).map(float))


def by_range(counted):
    found = {}
    for cycles in counted:
        for way in cycles.ranges.tolist():
            found[way] = found.get(way, 0) + cycles.count
    return found


def test_the_standards_example():
    assert by_range(rainflow(EXAMPLE)) == EXAMPLE_CYCLES


def test_samples_between_turning_points_change_nothing():
    fine = np.interp(np.linspace(0, 8, 801), np.arange(9), EXAMPLE).astype(np.float32)
    assert turning_points(fine) == pytest.approx(EXAMPLE, abs=1e-6)
    assert by_range(rainflow(fine)) == EXAMPLE_CYCLES


def counted_by_the_standard(points):
    """ASTM E1049-85, 5.4.4, as it is written there: three points, start by start."""
    found, stack = {}, []

    def add(way, count):
        found[way] = found.get(way, 0) + count

    for point in points:
        stack.append(point)
        while len(stack) >= 3:
            y, x = abs(stack[-2] - stack[-3]), abs(stack[-1] - stack[-2])
            if x < y:
                break
            if len(stack) == 3:
                add(y, 0.5)
                stack.pop(0)
            else:
                add(y, 1.0)
                del stack[-3:-1]
    for one, other in pairwise(stack):
        add(abs(other - one), 0.5)
    return found


@given(histories)
def test_the_counts_are_the_standards(history):
    points = turning_points(history).astype(float).tolist()
    if len(points) >= 2:
        assert by_range(rainflow(history)) == counted_by_the_standard(points)


def test_the_gate_leaves_small_ways_out():
    noisy = np.array([0, 5, 4.5, 9, 8.8, 1, 1.3, 0.9, 6], np.float32)
    assert turning_points(noisy, 1.0) == pytest.approx([0, 9, 0.9, 6])


@given(histories, st.sampled_from([0.0, 1.0, 7.5]), st.integers(1, 30))
def test_turning_points_do_not_depend_on_blocks(history, gate, size):
    finder = TurningPoints(gate)
    parts = [finder.push(history[i : i + size]) for i in range(0, len(history), size)]
    assert (
        np.concatenate([*parts, finder.finish()]).tolist() == turning_points(history, gate).tolist()
    )


@given(histories, st.sampled_from([0.0, 1.0, 7.5]))
def test_turning_points_turn_and_keep_the_ends(history, gate):
    points = turning_points(history, gate)
    if np.ptp(history) <= gate:
        assert len(points) == 0
        return
    ways = np.diff(points)
    assert (np.abs(ways) > gate).all()
    assert (np.sign(ways[:-1]) == -np.sign(ways[1:])).all()
    assert (points.min(), points.max()) == (history.min(), history.max())


@given(histories, st.integers(1, 30))
def test_rainflow_does_not_depend_on_blocks(history, size):
    points = turning_points(history)
    if len(points) < 2:
        return
    counter = RainflowCounter()
    parts = [counter.push(points[i : i + size]) for i in range(0, len(points), size)]
    assert by_range([*parts, counter.finish()]) == by_range(rainflow(history))


@given(histories)
def test_every_way_is_counted_once(history):
    points = turning_points(history)
    if len(points) < 2:
        return
    found = by_range(rainflow(history))
    assert 2 * sum(found.values()) == len(points) - 1
    # The way there and back of all cycles is the way of the history.
    assert 2 * sum(way * n for way, n in found.items()) == np.abs(np.diff(points)).sum()
    assert max(found) == np.ptp(points)


def test_values_without_a_number_are_left_out():
    holes = np.insert(EXAMPLE, [2, 5], [np.nan, np.inf]).astype(np.float32)
    assert turning_points(holes).tolist() == EXAMPLE.tolist()


def matrix_of(counted, width, lowest, highest):
    made = RangeMeanMatrix(width, lowest, highest)
    for cycles in counted:
        made.add(cycles, cycles.ranges)
    return made


def test_a_sine_has_one_cycle_a_period():
    t = np.linspace(0, 10, 10_001)
    counted = rainflow((3 + 2 * np.sin(2 * np.pi * t)).astype(np.float32), gate=0.1)
    assert sum(c.total for c in counted) == pytest.approx(10, abs=0.5)
    found = matrix_of(counted, 0.5, 1.0, 5.0)
    row, column = np.unravel_index(found.counts.argmax(), found.counts.shape)
    assert row * 0.5 == pytest.approx(4, abs=0.5)
    assert found.lowest_mean + column * 0.5 == pytest.approx(3, abs=0.5)
    assert found.counts.sum() == sum(c.total for c in counted)


@pytest.mark.parametrize("width", [0.1, 0.3, 1e-6, 7.0])
def test_what_lies_on_a_border_belongs_to_the_class_above(width):
    """Ranges and means that are whole classes, as float32 has them."""
    for k in (1, 2, 3, 6, 11):
        history = np.array([0, k * width, 0, k * width], np.float32)
        found = matrix_of(rainflow(history), width, 0.0, float(history.max()))
        assert set(np.nonzero(found.counts)[0]) == {k}
        if k % 2 == 0:
            assert found.counts[k, k // 2] > 0


def damage(history, curve, *stress, gate=0.0):
    return sum(damage_of(c, curve, *stress).sum() for c in rainflow(history, gate))


def test_miner_by_hand():
    """1000 cycles of 200 MPa amplitude on 2 N = (sa / 900e6)^(1 / -0.1)."""
    history = np.tile([200.0, -200.0], 1000).astype(np.float32)
    to_failure = 0.5 * (200 / 900) ** -10
    total = sum(c.total for c in rainflow(history))
    assert total == 999.5
    assert damage(history, BasquinCurve(900e6, -0.1), 1e6) == pytest.approx(total / to_failure)


@pytest.mark.parametrize("spike", [2.0, 10.0, 1000.0])
def test_one_spike_takes_nothing_from_the_damage_of_the_others(spike):
    """Each cycle does what it does, however far away another one reaches."""
    swings = np.tile([100.0, -100.0], 500)
    history = np.concatenate([swings, [100 * spike, -100], swings]).astype(np.float32)
    curve = BasquinCurve(900e6, -0.2)
    alone = 998 / curve.cycles(np.array(100e6))
    rest = damage(np.array([-100, 100 * spike, -100], np.float32), curve, 1e6)
    assert damage(history, curve, 1e6) == pytest.approx(alone + rest, rel=2e-3)


def test_mean_stress_costs_life_and_pressure_does_not_help():
    assert goodman(np.array([100.0]), np.array([350.0]), 700.0) == pytest.approx([200])
    assert goodman(np.array([100.0]), np.array([-350.0]), 700.0) == pytest.approx([100])
    assert goodman(np.array([100.0]), np.array([800.0]), 700.0) == np.inf
    history = np.array([0, 1000, 0, 1000, 0], np.float32)
    broken = damage(history, BasquinCurve(900e6, -0.1), 1e6, 400e6)
    assert np.isfinite(broken)
    assert broken > 1e8


@pytest.mark.parametrize(
    ("make", "argument", "words"),
    [
        (lambda: rainflow(np.full(9, 2, np.float32)), "gate", "no reversal"),
        (lambda: rainflow(np.zeros(0, np.float32)), "gate", "no reversal"),
        (lambda: rainflow(EXAMPLE, gate=20.0), "gate", "no reversal"),
        (lambda: rainflow(EXAMPLE, gate=-1.0), "gate", "gate cannot be -1"),
        (lambda: BasquinCurve(900e6, 0.1), "exponent", "must be negative, not 0.1"),
        (lambda: BasquinCurve(0, -0.1), "strength", "above zero"),
    ],
)
def test_histories_and_curves_without_sense_are_refused(make, argument, words):
    with pytest.raises(FatigueError, match=words) as caught:
        make()
    assert caught.value.argument == argument


def test_statistics_of_a_series():
    found = series([2.0, None, 4.0, float("nan"), 6.0])
    assert (found.count, found.mean, found.deviation) == (3, 4.0, 2.0)
    assert (found.lowest, found.highest) == (2.0, 6.0)
    assert series([None]) is None
    assert series([5.0]).deviation is None
