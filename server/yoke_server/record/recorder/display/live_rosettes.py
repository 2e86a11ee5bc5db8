"""The first principal strain of a rosette, live: the largest strain at its place."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from yoke_core.errors import RosetteError
from yoke_core.rosette.series import principal_strains
from yoke_core.rosette.state import Rosette
from yoke_core.signals.chain import SignalChain
from yoke_core.streaming.block import BlockSummary
from yoke_core.streaming.live import FIGURES, LiveFigures

from yoke_server.kinds.chain import chain_of
from yoke_server.record.recorder.display.bins import in_bins
from yoke_server.setups.document import FrozenChannel, rosette_key, rosettes_of

Array = NDArray[np.float64]


class LiveRosettes:
    """The whole rosettes among a device's channels; each under its key."""

    def __init__(self, channels: Sequence[FrozenChannel], window_blocks: int) -> None:
        self.keys: list[str] = []
        self._parts: list[tuple[Rosette, list[FrozenChannel], list[SignalChain]]] = []
        for grids in rosettes_of(channels).values():
            if rosette := _rosette(grids):
                self.keys.append(rosette_key(grids))
                self._parts.append((rosette, grids, [chain_of(c) for c in grids]))
        count = len(self.keys)
        self._figures = LiveFigures(
            np.arange(count), np.zeros(count, dtype=bool), np.ones(count), window_blocks
        )

    def reset_peaks(self, keys: Sequence[str]) -> None:
        """Of rosettes with one of these channels; of all without ``keys``."""
        for i, (_, grids, _) in enumerate(self._parts):
            if not keys or {c.key for c in grids} & set(keys):
                self._figures.peaks[i] = np.nan

    def fill(self, summary: BlockSummary, table: NDArray[np.float32]) -> None:
        """``table`` (rosettes, FIGURES + 3 * bins) gets the figures of one block more."""
        bins = (table.shape[1] - FIGURES) // 3
        samples = summary.ratios.shape[1]
        shown = np.empty((len(self._parts), 1 + 3 * bins))
        spread = np.empty(len(self._parts))
        clipped = np.zeros(len(self._parts), np.int64)
        for i, (rosette, grids, chains) in enumerate(self._parts):
            rows = [c.input_number - 1 for c in grids]
            a, b, c = (
                k.apply(summary.ratios[row].astype(float)).astype(np.float32)
                for row, k in zip(rows, chains, strict=True)
            )
            first = principal_strains(rosette, a, b, c).first.astype(float)
            shown[i], spread[i] = in_bins(first, bins)
            clipped[i] = min(samples, int(summary.clipped[rows].sum()))
        nothing = np.full(len(self._parts), np.nan)
        self._figures.take(shown, nothing, clipped, samples, spread, table)


def _rosette(grids: Sequence[FrozenChannel]) -> Rosette | None:
    """None where the angles give no rosette."""
    try:
        return Rosette(tuple(c.grid.angle for c in grids if c.grid))
    except RosetteError:
        return None
