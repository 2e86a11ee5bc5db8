"""Live statistics against numpy on all samples, in blocks of any size."""

import numpy as np
import pytest
from yoke_core.streaming.live import FIGURES, LiveFigures

BLOCKS, SAMPLES, BINS = 14, 30, 2
STEEP = np.array([2.0, 500.0])
TURNED = np.array([False, True])


def shown_of(block):
    """Mean, then lowest, highest and last of each half, of signals (2, SAMPLES)."""
    halves = np.split(block, BINS, axis=1)
    bins = [f for h in halves for f in (h.min(axis=1), h.max(axis=1), h[:, -1])]
    return np.column_stack([block.mean(axis=1), *bins])


def statistics(windows, blocks):
    """The table after the last block, and the quantities of all samples, (2, blocks * SAMPLES)."""
    figures = LiveFigures(np.array([0, 1]), TURNED, STEEP, windows)
    table = np.zeros((2, FIGURES + 3 * BINS), np.float32)
    slope = np.where(TURNED, -STEEP, STEEP)[:, None]
    for block in blocks:
        clipped = np.isnan(block).sum(axis=1)
        figures.take(
            shown_of(block) * slope, block[:, 0], clipped, SAMPLES, block.std(axis=1), table
        )
    return table, np.concatenate(blocks, axis=1) * slope


@pytest.mark.parametrize("windows", [(2, 3, 5), (3, 10, 600), (1, 14, 14)])
def test_each_window_is_that_of_its_samples(windows):
    rng = np.random.default_rng(4)
    blocks = list(rng.normal(1e-3, 4e-4, (BLOCKS, 2, SAMPLES)))
    table, quantity = statistics(windows, blocks)
    for place, window in enumerate(windows):
        newest = quantity[:, -SAMPLES * window :]
        at = 5 if place == 0 else 3 + 4 * place
        found = table[:, at : at + (2 if place == 0 else 4)]
        wanted = [newest.mean(axis=1), newest.std(axis=1)]
        if place:
            wanted += [newest.min(axis=1), newest.max(axis=1)]
        np.testing.assert_allclose(found, np.column_stack(wanted), rtol=2e-5)


def test_a_window_in_which_all_of_a_block_clipped_has_no_mean_and_the_extremes_of_the_rest():
    blocks = [np.full((2, SAMPLES), 1e-3) for _ in range(4)]
    blocks[2] = np.full((2, SAMPLES), np.nan)
    table, _ = statistics((1, 3, 4), blocks)
    assert np.isfinite(table[:, 5]).all(), "the newest block is whole"
    assert np.isnan(table[:, 7]).all()
    np.testing.assert_allclose(table[0, 9:11], [2e-3, 2e-3], rtol=1e-6)
