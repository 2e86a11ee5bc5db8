import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from yoke_core.errors import FatigueError
from yoke_core.fatigue.life import BasquinCurve, goodman, life
from yoke_core.fatigue.rainflow import RainflowCounter, rainflow, range_mean
from yoke_core.fatigue.turning import TurningPoints, turning_points
from yoke_core.statistics import series

# ASTM E1049-85, figure 6: the worked example of rainflow counting, and its cycles by range.
EXAMPLE = np.array([-2, 1, -3, 5, -1, 3, -4, 4, -2], np.float32)
EXAMPLE_CYCLES = {3: 0.5, 4: 1.5, 6: 0.5, 8: 1.0, 9: 0.5}

histories = arrays(np.float32, st.integers(2, 80), elements=st.integers(-20, 20).map(float))


def by_range(cycles):
    found = {}
    for way, count in zip(cycles.ranges.ravel(), cycles.from_to.ravel(), strict=True):
        if count:
            found[round(float(way), 6)] = found.get(round(float(way), 6), 0) + count
    return found


def test_the_standards_example():
    assert by_range(rainflow(EXAMPLE, levels=10)) == EXAMPLE_CYCLES


def test_samples_between_turning_points_change_nothing():
    fine = np.interp(np.linspace(0, 8, 801), np.arange(9), EXAMPLE).astype(np.float32)
    assert turning_points(fine) == pytest.approx(EXAMPLE, abs=1e-6)
    assert by_range(rainflow(fine, levels=10)) == EXAMPLE_CYCLES


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
def test_rainflow_counts_every_way_once_whatever_the_blocks(history, size):
    points = turning_points(history)
    if len(points) < 2:
        return
    cycles = rainflow(history, levels=41)
    counter = RainflowCounter(float(points.min()), float(points.max()), 41)
    for i in range(0, len(points), size):
        counter.push(points[i : i + size])
    assert (counter.finish().from_to == cycles.from_to).all()


@given(histories)
def test_rainflow_of_whole_levels_counts_every_way_once(history):
    points = turning_points(history)
    if len(points) < 2:
        return
    cycles = rainflow(history, levels=int(points.max() - points.min()) + 1)
    assert 2 * cycles.total == len(points) - 1
    # The way there and back of all cycles is the way of the history.
    assert (2 * cycles.ranges * cycles.from_to).sum() == pytest.approx(
        np.abs(np.diff(points)).sum()
    )
    assert cycles.ranges[cycles.from_to > 0].max() == pytest.approx(np.ptp(points))


def test_values_without_a_number_are_left_out():
    holes = np.insert(EXAMPLE, [2, 5], [np.nan, np.inf]).astype(np.float32)
    assert turning_points(holes).tolist() == EXAMPLE.tolist()


def test_a_sine_has_one_cycle_a_period():
    t = np.linspace(0, 10, 10_001)
    cycles = rainflow((3 + 2 * np.sin(2 * np.pi * t)).astype(np.float32), gate=0.1)
    assert cycles.total == pytest.approx(10, abs=0.5)
    counts, ranges, means = range_mean(cycles, 0.5)
    most = np.unravel_index(counts.argmax(), counts.shape)
    assert ranges[most[0]] <= 4 < ranges[most[0]] + 0.5 + 1e-9 or ranges[most[0]] == 3.5
    assert means[most[1]] <= 3 <= means[most[1]] + 0.5
    assert counts.sum() == cycles.total


def test_miner_by_hand():
    """1000 cycles of 200 MPa amplitude on 2 N = (sa / 900e6)^(1 / -0.1)."""
    history = np.tile([200.0, -200.0], 1000).astype(np.float32)
    cycles = rainflow(history, levels=3)
    curve = BasquinCurve(900e6, -0.1)
    to_failure = 0.5 * (200 / 900) ** -10
    found = life(cycles, curve, stress_per_unit=1e6)
    assert found.damage == pytest.approx(cycles.total / to_failure)
    assert found.repeats == pytest.approx(to_failure / cycles.total)
    assert found.shares.sum() == pytest.approx(1)


def test_mean_stress_costs_life_and_pressure_does_not_help():
    assert goodman(np.array([100.0]), np.array([350.0]), 700.0) == pytest.approx([200])
    assert goodman(np.array([100.0]), np.array([-350.0]), 700.0) == pytest.approx([100])
    assert goodman(np.array([100.0]), np.array([800.0]), 700.0) == np.inf
    cycles = rainflow(np.array([0, 1000, 0, 1000, 0], np.float32), levels=3)
    broken = life(cycles, BasquinCurve(900e6, -0.1), 1e6, tensile_strength=400e6)
    assert np.isfinite(broken.damage)
    assert np.isfinite(broken.shares).all()
    assert broken.repeats == pytest.approx(0, abs=1e-9)


@pytest.mark.parametrize(
    ("make", "argument", "words"),
    [
        (lambda: rainflow(np.full(9, 2, np.float32)), "gate", "no reversal"),
        (lambda: rainflow(np.zeros(0, np.float32)), "gate", "no reversal"),
        (lambda: rainflow(EXAMPLE, gate=20.0), "gate", "no reversal"),
        (lambda: rainflow(EXAMPLE, gate=-1.0), "gate", "gate cannot be -1"),
        (lambda: rainflow(EXAMPLE, levels=1), "levels", "2 to 2048 levels"),
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
