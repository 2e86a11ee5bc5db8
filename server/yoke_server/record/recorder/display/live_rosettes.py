"""The first principal strain of a rosette, live: the largest strain at its place."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from yoke_core.errors import RosetteError
from yoke_core.rosette.series import principal_strains
from yoke_core.rosette.state import Rosette
from yoke_core.signals.chain import SignalChain
from yoke_core.streaming.block import BlockSummary

from yoke_server.kinds.chain import chain_of
from yoke_server.record.recorder.display.bins import BinnedFigures
from yoke_server.setups.document import FrozenChannel, rosette_key, rosettes_of


class LiveRosettes:
    """The whole rosettes among a device's channels; each under its key."""

    def __init__(self, channels: Sequence[FrozenChannel], window_blocks: int) -> None:
        self.keys: list[str] = []
        self._parts: list[tuple[Rosette, list[FrozenChannel], list[SignalChain]]] = []
        for grids in rosettes_of(channels).values():
            if rosette := _rosette(grids):
                self.keys.append(rosette_key(grids))
                self._parts.append((rosette, grids, [chain_of(c) for c in grids]))
        self._figures = BinnedFigures(len(self.keys), window_blocks)

    def reset_peaks(self, keys: Sequence[str]) -> None:
        """Of rosettes with one of these channels; of all without ``keys``."""
        for i, (_, grids, _) in enumerate(self._parts):
            if not keys or {c.key for c in grids} & set(keys):
                self._figures.reset_peak(i)

    def fill(self, summary: BlockSummary, table: NDArray[np.float32]) -> None:
        """``table`` (rosettes, FIGURES + 3 * bins) gets the figures of one block more."""
        signals, clipped = [], []
        for rosette, grids, chains in self._parts:
            rows = [c.input_number - 1 for c in grids]
            a, b, c = (
                k.apply(summary.ratios[row].astype(float)).astype(np.float32)
                for row, k in zip(rows, chains, strict=True)
            )
            signals.append(principal_strains(rosette, a, b, c).first.astype(float))
            clipped.append(int(summary.clipped[rows].sum()))
        self._figures.fill(signals, clipped, table)


def _rosette(grids: Sequence[FrozenChannel]) -> Rosette | None:
    """None where the angles give no rosette."""
    try:
        return Rosette(tuple(c.grid.angle for c in grids if c.grid))
    except RosetteError:
        return None
