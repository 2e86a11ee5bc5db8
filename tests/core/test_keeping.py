"""Keep rules against their whole-array twins, for any division into blocks."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from yoke_core.errors import SignalError
from yoke_core.fatigue.turning import turning_points
from yoke_core.keeping.bursts import BurstPlan
from yoke_core.keeping.changes import Changes
from yoke_core.keeping.cycles import CycleCounter
from yoke_core.keeping.decimation import Decimator, factor_of
from yoke_core.keeping.turns import CycleTurns

CUTS = st.lists(st.integers(0, 400), max_size=8)


def parts(values, cuts):
    return np.split(values, sorted(c for c in cuts if c <= values.shape[-1]), axis=-1)


def wave(seed, samples=400, period=37.0):
    noise = np.random.default_rng(seed).normal(0, 0.05, samples)
    return np.sin(2 * np.pi * np.arange(samples) / period) + noise


@given(st.integers(0, 99), CUTS, st.integers(1, 12))
def test_decimation_is_the_same_for_any_blocks(seed, cuts, factor):
    values = np.stack([wave(seed), wave(seed + 1)])
    values[0, seed] = np.inf if seed % 3 == 0 else 0.0
    whole, blocks = Decimator(factor, 2), Decimator(factor, 2)
    expected = np.concatenate([whole.push(values), whole.finish()], axis=1)
    given = [blocks.push(part) for part in parts(values, cuts)]
    np.testing.assert_array_equal(np.concatenate([*given, blocks.finish()], axis=1), expected)
    assert expected.shape[1] == -(-400 // factor)


def test_decimation_keeps_what_the_new_rate_can_hold_and_nothing_else():
    t = np.arange(20_000) / 1000.0
    slow, fast = np.sin(2 * np.pi * 3 * t), np.sin(2 * np.pi * 63 * t)
    of = Decimator(factor_of(1000.0, 100.0), 2)
    found = np.concatenate([of.push(np.stack([slow, fast])), of.finish()], axis=1)
    inner = slice(10, -10)
    np.testing.assert_allclose(found[0, inner], slow[::10][inner], atol=2e-3)
    assert np.abs(found[1, inner]).max() < 2e-3


def test_what_clipped_spoils_as_far_as_the_filter_reaches():
    values = np.zeros((1, 400))
    values[0, 200] = -np.inf
    of = Decimator(4, 1)
    found = np.concatenate([of.push(values), of.finish()], axis=1)[0]
    assert np.flatnonzero(np.isinf(found)).tolist() == list(range(50 - 8, 50 + 9))


@given(st.integers(0, 99), CUTS, st.integers(1, 4), st.integers(0, 399))
def test_turns_of_cycles_are_the_turning_points_in_pairs(seed, cuts, every, gap):
    values = wave(seed)
    values[gap] = np.nan
    of = CycleTurns(0.5, every)
    found = np.concatenate([of.push(part).kept for part in parts(values, cuts)])
    known = values[np.isfinite(values)].astype(np.float32)
    certain = turning_points(known, 0.5)[:-1]  # the last is not certain
    whole = len(certain) // 2
    pairs = certain[: 2 * whole].reshape(whole, 2)[::every]
    np.testing.assert_array_equal(values[found].astype(np.float32).reshape(-1, 2), pairs)
    assert (np.diff(found) > 0).all()


@given(st.integers(0, 99), CUTS)
def test_each_turn_was_a_candidate_when_its_block_ended(seed, cuts):
    of, candidates = CycleTurns(0.5), set()
    for part in parts(wave(seed), cuts):
        first = of.at
        turns = of.push(part)
        assert all(k >= first or k in candidates for k in turns.kept)
        candidates = set(turns.candidates.tolist())
        assert len(candidates) <= 3


@given(st.integers(0, 99), CUTS)
def test_cycles_are_counted_alike_for_any_blocks(seed, cuts):
    values = wave(seed)
    of = CycleCounter(0.5)
    found = np.concatenate([of.push(part) for part in parts(values, cuts)])
    np.testing.assert_array_equal(found, CycleCounter(0.5).push(values))
    assert found[-1] == 11  # 400 samples of 37 each, the first way up among them


@given(st.integers(0, 99), CUTS, st.floats(0.01, 1.5), st.integers(1, 60))
def test_changes_keep_all_that_moved(seed, cuts, step, longest):
    values = np.stack([wave(seed), wave(seed + 1)])
    of = Changes([step, 10.0], longest)
    found = np.concatenate([of.push(part) for part in parts(values, cuts)])
    np.testing.assert_array_equal(found, Changes([step, 10.0], longest).push(values))
    assert found[0] == 0
    assert np.diff(found).max(initial=0) <= longest
    held = values[0][found[np.searchsorted(found, np.arange(400), side="right") - 1]]
    assert np.abs(values[0] - held).max() < step


@pytest.mark.parametrize("of", [CycleTurns(0.5), CycleCounter(0.5), Changes([0.3], 50)])
def test_what_is_gone_on_from_is_what_was_reached(of):
    values = np.atleast_2d(wave(3)) if isinstance(of, Changes) else wave(3)
    twin = type(of)([0.3], 50) if isinstance(of, Changes) else type(of)(0.5)
    of.push(values[..., :123])
    twin.state = [float(repr(v)) for v in of.state]
    first, then = of.push(values[..., 123:]), twin.push(values[..., 123:])
    np.testing.assert_array_equal(getattr(first, "kept", first), getattr(then, "kept", then))


@given(st.floats(0.1, 5), st.floats(5, 50), st.one_of(st.none(), st.integers(1, 3)))
@settings(max_examples=50)
def test_as_many_bursts_as_are_foretold(length, every, per_decade):
    plan = BurstPlan(length, every, per_decade)
    at = np.arange(0, 2000, 0.05)
    inside = plan.covers(at)
    begins = np.flatnonzero(np.diff(np.concatenate([[False], inside]).astype(int)) == 1)
    near = plan.until(2000.0 - 0.05)
    assert abs(len(begins) - near) <= (1 if length < plan.shortest_interval - 0.05 else near)
    assert inside[0]


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: BurstPlan(11, 10), "longer than"),
        (lambda: BurstPlan(8, 10, per_decade=10), "longer than"),
        (lambda: BurstPlan(0, 10), "above zero"),
        (lambda: CycleTurns(0.0), "noise"),
        (lambda: CycleTurns(1.0, 0), "each cycle"),
        (lambda: CycleCounter(np.nan), "noise"),
        (lambda: Changes([0.0], 5), "above zero"),
        (lambda: Decimator(0, 1), "divided"),
    ],
)
def test_what_says_nothing_is_refused(make, words):
    with pytest.raises(SignalError, match=words):
        make()
