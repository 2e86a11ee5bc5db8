"""Streaming functions equal their whole-array twins, whatever the block size."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from yoke_core.streaming.block import summarise_block
from yoke_core.streaming.envelope import EnvelopeFolder, envelope
from yoke_core.streaming.thin import thin_curve
from yoke_core.tension.stop import ForceDropWatch

block_sizes = st.lists(st.integers(1, 60), min_size=1, max_size=20)


def in_blocks(samples, sizes):
    start = 0
    while start < samples.shape[-1]:
        for size in sizes:
            yield samples[..., start : start + size]
            start += size


@settings(deadline=None)
@given(sizes=block_sizes, factor=st.integers(1, 40), seed=st.integers(0, 99))
def test_envelope_by_blocks_is_the_whole_envelope(sizes, factor, seed):
    samples = np.random.default_rng(seed).normal(size=(3, 300)).astype(np.float32)
    samples[0, 40:90] = np.nan
    folder = EnvelopeFolder(3, factor)
    parts = [folder.push(b, b) for b in in_blocks(samples, sizes) if b.shape[1]]
    parts.append(folder.finish())
    whole = envelope(samples, factor)
    np.testing.assert_array_equal(np.concatenate([p.low for p in parts], axis=1), whole.low)
    np.testing.assert_array_equal(np.concatenate([p.high for p in parts], axis=1), whole.high)


@settings(deadline=None)
@given(factor=st.integers(1, 16), seed=st.integers(0, 99))
def test_envelope_is_numpys_minimum_and_maximum(factor, seed):
    samples = np.random.default_rng(seed).normal(size=(2, 16 * factor)).astype(np.float32)
    groups = samples.reshape(2, 16, factor)
    found = envelope(samples, factor)
    np.testing.assert_array_equal(found.low, groups.min(axis=2))
    np.testing.assert_array_equal(found.high, groups.max(axis=2))


@settings(deadline=None)
@given(sizes=block_sizes, seed=st.integers(0, 99), odd=st.sets(st.integers(0, 299), max_size=9))
def test_groups_folded_at_once_are_those_folded_one_by_one(sizes, seed, odd):
    samples = np.random.default_rng(seed).normal(size=(2, 300)).astype(np.float32)
    for at in odd:  # one channel has some samples that are none, the other clipped
        samples[0, at], samples[1, at] = np.nan, np.inf * (-1) ** at
    at_once, by_one = EnvelopeFolder(2, 16), EnvelopeFolder(2, 16)
    for block in in_blocks(samples, sizes):
        found, wanted = at_once.push(block, block), by_one.push(block, block.copy())
        np.testing.assert_array_equal(found.low, wanted.low)
        np.testing.assert_array_equal(found.high, wanted.high)


@settings(deadline=None)
@given(
    begun=st.integers(0, 15),
    odd=st.dictionaries(
        st.integers(0, 9_999), st.sampled_from([np.nan, -np.nan, np.inf, -np.inf, -0.0])
    ),
)
def test_long_segments_are_folded_as_numpy_does(begun, odd):
    samples = np.random.default_rng(begun).normal(size=(1, 10_000)).astype(np.float32)
    for at, value in odd.items():
        samples[0, at] = value
    folder = EnvelopeFolder(1, 16)
    folder.push(*2 * (samples[:, :begun],))
    rest = samples[:, begun:]
    found = folder.push(rest, rest)
    groups = samples.reshape(1, -1, 16)
    with np.errstate(invalid="ignore"):
        np.testing.assert_array_equal(found.low, np.fmin.reduce(groups, axis=2))
        np.testing.assert_array_equal(found.high, np.fmax.reduce(groups, axis=2))


def test_envelope_of_a_gap_is_not_a_number_and_of_a_half_gap_is_the_rest():
    samples = np.array([[np.nan, np.nan, 1, np.nan]], np.float32)
    found = envelope(samples, 2)
    assert np.isnan(found.low[0, 0])
    assert found.low[0, 1] == found.high[0, 1] == 1


@pytest.mark.parametrize("sense", [1.0, -1.0], ids=["pulling", "pressing"])
@given(sizes=block_sizes)
def test_force_drop_is_found_at_the_same_sample_by_blocks(sense, sizes):
    force = sense * np.concatenate([np.linspace(0, 1000, 200), np.linspace(1000, 300, 50)])
    whole = ForceDropWatch(500, 0.4).push(force)
    watch, start, found = ForceDropWatch(500, 0.4), 0, None
    for block in in_blocks(force, sizes):
        if found is None and (index := watch.push(block)) is not None:
            found = start + index
        start += block.size
    assert found == whole
    assert sense * force[whole] < 600 <= sense * force[whole - 1]


def test_a_force_that_changes_its_sense_has_fallen():
    assert ForceDropWatch(500, 0.4).push([0.0, 600.0, -800.0, -900.0]) == 2
    watch = ForceDropWatch(500, 0.4, largest=-600.0)
    assert not watch.quiet(550.0, 800.0)
    assert watch.push([800.0]) == 0


def test_force_drop_sleeps_below_its_arming_level():
    assert ForceDropWatch(500, 0.4).push([0, 400, 10, 400, 0]) is None


@pytest.mark.parametrize("size", [0, 1, 2, 5, 100_000])
def test_thinned_curve_keeps_its_ends_and_its_budget(size):
    x = np.linspace(0, 1, size)
    keep = thin_curve(x, np.sin(40 * x) + np.random.default_rng(1).normal(size=size), 600, 400)
    assert keep.size <= 2 * (600 + 400)
    assert size == 0 or (keep[0], keep[-1]) == (0, size - 1)


@pytest.mark.parametrize("sense", [1.0, -1.0], ids=["pulling", "pressing"])
@given(sizes=block_sizes)
def test_blocks_called_quiet_never_hold_the_drop(sense, sizes):
    force = sense * np.concatenate([np.linspace(0, 1000, 200), np.linspace(1000, 300, 50)])
    whole = ForceDropWatch(500, 0.4).push(force)
    watch, start, found = ForceDropWatch(500, 0.4), 0, None
    for block in (b for b in in_blocks(force, sizes) if b.size):
        if found is None and not watch.quiet(block.min(), block.max()):
            index = watch.push(block)
            found = start + index if index is not None else None
        start += block.size
    assert found == whole


RAIL = 2**23 - 1
AT_RAIL = st.sampled_from([[RAIL], [-RAIL], [-RAIL - 1], [RAIL, -RAIL], [RAIL, RAIL, RAIL, 7]])


@given(st.integers(1, 40), st.integers(1, 9), AT_RAIL, st.integers(0, 50))
@settings(deadline=None)
def test_a_digest_is_what_numpy_says_of_the_block(samples, bins, at_rail, seed):
    random = np.random.default_rng(seed)
    counts = random.integers(-RAIL, RAIL, (samples, 3), dtype=np.int32)
    counts[0, 1] = RAIL
    counts[:, 2] = np.resize(at_rail, samples)  # an input with nothing in it
    full_scale = np.array([2e-3, 8e-3, 40e-3], np.float32)
    found = summarise_block(counts, full_scale, RAIL, bins)
    ratios = counts.T * (full_scale.astype(float) / RAIL)[:, None]
    clipped = np.abs(counts.T) >= RAIL
    marked = np.where(clipped, np.sign(ratios) * np.inf, ratios)
    np.testing.assert_allclose(found.ratios, marked, rtol=1e-6)
    assert found.clipped.tolist() == clipped.sum(axis=1).tolist()
    for c in range(3):
        known = ratios[c][~clipped[c]]
        if not known.size:
            assert np.isnan(found.shown[c]).all()
            continue
        assert found.mean[c] == pytest.approx(known.mean(), rel=1e-9, abs=1e-15)
        assert found.deviation[c] == pytest.approx(known.std(), rel=1e-6, abs=1e-12)
        assert np.nanmin(found.low[c]) == pytest.approx(known.min())
        assert np.nanmax(found.high[c]) == pytest.approx(known.max())


@pytest.mark.parametrize("level", [0, 8_000_000, 2_000_000_000])
def test_the_deviation_of_large_numbers_that_differ_little_is_kept(level):
    """As a ready-made number of nine digits that moves in the last one."""
    counts = np.array([level, level + 1, level + 2, level + 1] * 25, np.int32)[:, None]
    found = summarise_block(counts, np.ones(1, np.float32), 2**31 - 1, 5)
    scale = 1 / (2**31 - 1)
    assert found.deviation[0] == pytest.approx(np.sqrt(0.5) * scale, rel=1e-6)
    assert found.mean[0] == pytest.approx((level + 1) * scale, rel=1e-15)
