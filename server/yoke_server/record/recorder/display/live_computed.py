"""Computed channels of one device, live: a graph over each block's readings."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from yoke_core.errors import CoreError
from yoke_core.signals.graph import SignalGraph
from yoke_core.signals.node import Node
from yoke_core.streaming.block import BlockSummary
from yoke_core.streaming.live import FIGURES, LiveFigures

from yoke_server.kinds.chain import chain_of
from yoke_server.kinds.computed import ComputedChannel
from yoke_server.record.recorder.display.bins import in_bins
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.formulas import computed_of, device_of

Array = NDArray[np.float64]


class LiveComputed:
    """The computed channels whose formulas name readable channels of one device.

    faults : by key, why one of them is not computed
    """

    def __init__(
        self,
        channels: Sequence[FrozenChannel],
        computed: Sequence[ComputedChannel],
        rate_hz: float,
        window_blocks: int,
    ) -> None:
        self.faults: dict[str, str] = {}
        self._channels = {c.key: (c.input_number - 1, chain_of(c)) for c in channels}
        nodes = self._nodes(channels, computed, rate_hz)
        self.keys = list(nodes)
        self._process = SignalGraph(nodes).start(rate_hz)
        self._inputs = SignalGraph(nodes).keys
        self._afresh = True
        count = len(self.keys)
        self.figures = LiveFigures(
            np.arange(count), np.zeros(count, dtype=bool), np.ones(count), window_blocks
        )

    def _nodes(
        self,
        channels: Sequence[FrozenChannel],
        computed: Sequence[ComputedChannel],
        rate_hz: float,
    ) -> dict[str, Node]:
        nodes: dict[str, Node] = {}
        for found in computed_of(channels, computed):
            key, formula = found.channel.key, found.formula
            if formula is None:
                self.faults[key] = f"{found.channel.name}: {found.error}"
            elif device_of(channels, formula):
                node = formula.result.node
                if why := _why_not({**nodes, key: node}, rate_hz):
                    self.faults[key] = f"{found.channel.name}: {why}"
                else:
                    nodes[key] = node
        return nodes

    def start_afresh(self) -> None:
        """What was measured so far counts no more: it was measured by other settings."""
        self._afresh = True

    def fill(self, summary: BlockSummary, follows: bool, table: NDArray[np.float32]) -> None:
        """``table`` (computed, FIGURES + 3 * bins) gets the figures of one block more.

        follows : whether the block continues the one before
        """
        bins = (table.shape[1] - FIGURES) // 3
        samples = summary.ratios.shape[1]
        readings = {key: self._reading(key, summary) for key in self._inputs}
        found = self._process.push(readings, follows and not self._afresh)
        self._afresh = False
        shown = np.empty((len(self.keys), 1 + 3 * bins))
        spread = np.empty(len(self.keys))
        clipped = np.zeros(len(self.keys), np.int64)
        for i, key in enumerate(self.keys):
            shown[i], spread[i] = in_bins(found[key], bins)
            clipped[i] = np.count_nonzero(np.isinf(found[key]))
        nothing = np.full(len(self.keys), np.nan)
        self.figures.take(shown, nothing, clipped, samples, spread, table)

    def _reading(self, key: str, summary: BlockSummary) -> Array:
        row, chain = self._channels[key]
        return chain.apply(summary.ratios[row].astype(float))


def _why_not(nodes: dict[str, Node], rate_hz: float) -> str:
    """Why the last one cannot be computed at a rate, beside the others; empty if it can.

    A corner may lie too high for the rate, or windows may hold too many samples.
    """
    try:
        SignalGraph(nodes).require_memory(rate_hz)
        SignalGraph(dict([nodes.popitem()])).start(rate_hz)
    except CoreError as error:
        return str(error)
    return ""
