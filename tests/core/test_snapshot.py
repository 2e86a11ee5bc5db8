"""Snapshots of signals against what was put into them."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from yoke_core.snapshot.facts import COLUMNS, LEAST, alike, averaging_loss, snapshot_of
from yoke_core.snapshot.verdicts import findings_of

RATE, COUNT = 1000.0, 1e-9
T = np.arange(2000) / RATE


def noise(size, seed=1, n=2000):
    return np.random.default_rng(seed).normal(0, size, n)


@given(
    st.floats(1e-7, 1e-3),
    st.floats(0, 6.28),
    st.integers(1, 9),
    st.sampled_from([50.0, 60.0]),
    st.integers(1700, 2000),
)
def test_hum_is_measured_at_any_phase_and_length(size, phase, times, mains, n):
    wave = size * np.sin(2 * np.pi * times * mains * T[:n] + phase)
    found = snapshot_of(wave + 5e-4, RATE, mains, COUNT)
    lines = dict(found.hum)
    if times * mains >= 0.49 * RATE:
        assert times * mains not in lines
        return
    # The straight line takes a little of a wave that is not there in whole periods.
    assert lines[times * mains] == pytest.approx(size, rel=0.02)
    assert all(a < 0.02 * size for f, a in lines.items() if f != times * mains)
    assert found.hum_share > 0.98
    assert found.noise == pytest.approx(size / np.sqrt(2), rel=0.02)


def test_noise_drift_and_mean_beside_each_other():
    found = snapshot_of(2e-3 + 1e-5 * T + noise(1e-6), RATE, 50.0, COUNT)
    assert found.drift == pytest.approx(1e-5, rel=0.02)
    assert found.noise == pytest.approx(1e-6, rel=0.05)
    assert found.mean == pytest.approx(2e-3 + 1e-5, rel=1e-3)
    assert [f.kind for f in findings_of(found, COUNT)] == ["drifts"]


def test_averaging_takes_hum_away_and_some_of_a_wave():
    hum = snapshot_of(3e-6 * np.sin(2 * np.pi * 150 * T) + noise(1e-7), RATE, 50.0, COUNT)
    assert hum.averaged == pytest.approx(1e-7 / np.sqrt(20), rel=0.25)
    wave = snapshot_of(np.sin(2 * np.pi * 6 * T), RATE, 50.0, COUNT)
    assert wave.averaged / wave.noise == pytest.approx(1 - averaging_loss(6, 50), rel=0.01)
    assert snapshot_of(noise(1.0), 90.0, 50.0, None).averaged == pytest.approx(
        1 / np.sqrt(2), rel=0.05
    )
    assert snapshot_of(noise(1.0), 60.0, 50.0, None).averaged is None


def test_bits_are_those_of_the_counts():
    counts = np.resize([3, 4, 5, 6, -9], 2000) * COUNT
    found = snapshot_of(counts, RATE, 50.0, COUNT)
    assert (found.level_bits, found.noise_bits) == (4, 4)  # up to 9, and 15 from end to end
    assert snapshot_of(counts, RATE, 50.0, None).level_bits is None


def test_what_clips_has_its_count_and_no_spectrum():
    samples = noise(1e-6)
    samples[100:150] = np.inf
    found = snapshot_of(samples, RATE, 50.0, COUNT)
    assert (found.clipped, found.has_spectrum, found.flat) == (50, False, False)
    assert np.isfinite([found.mean, found.noise, found.drift]).all()
    assert found.high[5] == np.inf
    assert [f.kind for f in findings_of(found, COUNT)] == ["clipped"]
    every = snapshot_of(np.full(2000, -np.inf), RATE, 50.0, COUNT)
    assert (every.clipped, np.isnan(every.noise)) == (2000, True)


def test_a_flat_line_is_no_good_signal_and_few_samples_are_none():
    found = snapshot_of(np.full(2000, 1.5e-3), RATE, 50.0, COUNT)
    assert found.flat
    (only,) = findings_of(found, COUNT)
    assert (only.kind, only.blocks, only.size) == ("flat", True, 2000)
    with pytest.raises(ValueError, match="too few"):
        snapshot_of(noise(1, n=LEAST - 1), RATE, 50.0, None)


def test_hum_counts_where_it_is_much_of_the_noise_and_more_than_a_count():
    hum = 1e-6 * np.sin(2 * np.pi * 100 * T)
    loud = findings_of(snapshot_of(hum + noise(2e-7), RATE, 50.0, COUNT), COUNT)
    assert [(f.kind, f.at_hz) for f in loud] == [("hum", 100.0)]
    assert loud[0].size == pytest.approx(1e-6, rel=0.02)
    assert findings_of(snapshot_of(hum + noise(2e-6), RATE, 50.0, COUNT), COUNT) == []
    coarse = snapshot_of(hum + noise(2e-7), RATE, 50.0, 1e-6)
    assert findings_of(coarse, 1e-6) == []


def test_noisier_than_last_time():
    found = snapshot_of(noise(1e-6), RATE, 50.0, COUNT)
    assert findings_of(found, COUNT, noise_before=0.9e-6) == []
    (finding,) = findings_of(found, COUNT, noise_before=0.25e-6)
    assert (finding.kind, round(finding.size)) == ("noisier", 4)


def test_channels_that_go_together_and_those_that_do_not():
    a, b = noise(1.0, 1), noise(1.0, 2)
    clipping = np.where(np.arange(2000) == 7, np.inf, a)
    rows = np.array([a, b, 3 * a + 0.2 * b + 5 * T, clipping, np.ones(2000)])
    ((i, j, r),) = alike(rows, 0.9)
    assert (i, j) == (0, 2)
    assert r == pytest.approx(np.corrcoef(a, 3 * a + 0.2 * b)[0, 1], abs=2e-3)
    assert alike(rows[:1], 0.1) == []


def test_pictures_hold_the_extremes_of_all_samples():
    samples = noise(1.0, n=1999)
    found = snapshot_of(samples, RATE, 50.0, None)
    assert len(found.low) == COLUMNS
    assert (found.low.min(), found.high.max()) == (samples.min(), samples.max())
    tone = snapshot_of(2 * np.sin(2 * np.pi * 100 * T), RATE, 50.0, None)
    assert tone.amplitude.max() == pytest.approx(2.0, rel=1e-3)
    assert np.argmax(tone.amplitude) == pytest.approx(160 * 100 / 500, abs=1)
