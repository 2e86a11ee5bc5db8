"""The signals of one device that are more than a scaling, live: a graph over each block."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray
from yoke_core.signals.graph import SignalGraph
from yoke_core.signals.node import Node
from yoke_core.streaming.block import BlockSummary

from yoke_server.kinds.chain import chain_of
from yoke_server.record.recorder.display.bins import BinnedFigures
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.signals import Signals, why_not

Array = NDArray[np.float64]


class LiveComputed:
    """Channels with steps, and computed channels, whose inputs are readable on one device.

    faults : by key, why one of them is not computed
    """

    def __init__(
        self,
        channels: Sequence[FrozenChannel],
        signals: Signals,
        rate_hz: float,
    ) -> None:
        self.faults: dict[str, str] = {}
        self._channels = {c.key: (c.input_number - 1, chain_of(c)) for c in channels}
        nodes: dict[str, Node] = {}
        for key, node in signals.nodes.items():
            if not signals.inputs[key] <= self._channels.keys():
                continue
            if why := why_not(node, nodes, rate_hz):
                self.faults[key] = why
            else:
                nodes[key] = node
        self.keys = list(nodes)
        graph = SignalGraph(nodes)
        self._process, self._inputs = graph.start(rate_hz), graph.keys
        self._afresh = True
        self._figures = BinnedFigures(len(self.keys))

    def start_afresh(self) -> None:
        """What was measured so far counts no more: it was measured by other settings."""
        self._afresh = True

    def fill(self, summary: BlockSummary, follows: bool, table: NDArray[np.float32]) -> None:
        """``table`` (computed, FIGURES + 3 * bins) gets the figures of one block more.

        follows : whether the block continues the one before
        """
        readings = {key: self._reading(key, summary) for key in self._inputs}
        found = self._process.push(readings, follows and not self._afresh)
        self._afresh = False
        signals = [found[key] for key in self.keys]
        raw = [self._raw(key, summary) for key in self.keys]
        self._figures.fill(signals, raw, table)

    def reset_peaks(self, keys: Sequence[str]) -> None:
        """Of the channels of these keys; of all without ``keys``."""
        for i, key in enumerate(self.keys):
            if not keys or key in keys:
                self._figures.reset_peak(i)

    def _raw(self, key: str, summary: BlockSummary) -> float:
        """Mean of the raw signal; not a number of what is not measured."""
        known = self._channels.get(key)
        return float(summary.mean[known[0]]) if known else float("nan")

    def _reading(self, key: str, summary: BlockSummary) -> Array:
        row, chain = self._channels[key]
        return chain.apply(summary.ratios[row].astype(float))
