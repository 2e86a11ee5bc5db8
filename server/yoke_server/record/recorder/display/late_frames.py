"""Signals of one device that need readings of others: shown once those have arrived.

Time is the samples' own: what is waited for, and for how long, does not depend on how busy the
computer is.
"""

from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from yoke_core.signals.graph import SignalGraph
from yoke_core.signals.node import Node
from yoke_core.streaming.block import BlockSummary
from yoke_core.timebase.interpolation import Interpolation

from yoke_server.kinds.chain import chain_of
from yoke_server.live.protocol import Layout, frame_header, row_bytes
from yoke_server.record.recorder.display.bins import BinnedFigures
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.signals import Signals, why_not

Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class LiveBlock:
    """A block of a device in time; ``follows``: it continues the one before.

    begin_s, end_s : bench time of its first sample, and of its end
    run_s : of the run at its end; negative without one
    """

    summary: BlockSummary
    begin_s: float
    end_s: float
    run_s: float
    follows: bool

    @property
    def times(self) -> Array:
        """Bench time (n,) of each sample."""
        share = np.arange(self.summary.samples) / self.summary.samples
        return self.begin_s + share * (self.end_s - self.begin_s)


@dataclass(slots=True)
class _Waiting:
    """A block whose signals wait for other devices; of each of those the readings so far."""

    block: LiveBlock
    own: dict[str, Array]
    others: dict[str, list[Array]]

    def lacks(self, key: str) -> int:
        return self.block.summary.samples - sum(map(len, self.others[key]))


class LateFrames:
    """The frames of signals whose time base is one device's and whose inputs are several's.

    wanted : by device, the channels whose readings are needed of it
    faults : by key, why one of them is not computed
    """

    def __init__(
        self,
        device: str,
        channels: Sequence[FrozenChannel],
        signals: Signals,
        rates_hz: dict[str, float],
        layout_id: int,
        bins: int,
        wait_s: float,
    ) -> None:
        self.faults: dict[str, str] = {}
        by_key = {c.key: c for c in channels}
        nodes = self._nodes(device, by_key, signals, rates_hz.get(device, 1.0))
        graph = SignalGraph(nodes)
        self._process = graph.start(rates_hz.get(device, 1.0))
        self._chains = {k: (by_key[k].input_number - 1, chain_of(by_key[k])) for k in graph.keys}
        self._own = [key for key in graph.keys if by_key[key].device_label == device]
        self.wanted: dict[str, list[str]] = {}
        self._joins: dict[str, Interpolation] = {}
        for key in sorted(graph.keys - set(self._own)):
            label = by_key[key].device_label
            self.wanted.setdefault(label, []).append(key)
            self._joins[key] = Interpolation(1 / rates_hz.get(label, 1.0))
        self._newest = dict.fromkeys(self._joins, -np.inf)
        self._wait_s, self._afresh = wait_s, True
        self._waiting: deque[_Waiting] = deque()
        self.keys = list(nodes)
        self.layout = Layout(id=layout_id, device=device, channels=self.keys)
        self._bins = bins
        self._figures = BinnedFigures(len(nodes))
        self._table = np.zeros((len(nodes), row_bytes(bins) // 4), "<f4")
        self._table[:, 0] = np.arange(len(nodes))

    def _nodes(
        self, device: str, by_key: dict[str, FrozenChannel], signals: Signals, rate_hz: float
    ) -> dict[str, Node]:
        nodes: dict[str, Node] = {}
        for key, node in signals.nodes.items():
            labels = {by_key[k].device_label for k in signals.inputs[key] if k in by_key}
            known = signals.inputs[key] <= by_key.keys()
            if signals.devices[key] != device or not known or labels <= {device}:
                continue
            if why := why_not(node, nodes, rate_hz):
                self.faults[key] = why
            else:
                nodes[key] = node
        return nodes

    def start_afresh(self) -> None:
        """What was measured so far counts no more: it was measured by other settings."""
        self._waiting.clear()
        self._afresh = True
        self.reset_peaks([])
        for key in self._joins:
            self._joins[key] = Interpolation(self._joins[key].period_s)
            self._newest[key] = -np.inf

    def reset_peaks(self, keys: Sequence[str]) -> None:
        """Of the channels of these keys; of all without ``keys``."""
        for i, key in enumerate(self.keys):
            if not keys or key in keys:
                self._figures.reset_peak(i)

    def push_other(self, device: str, block: LiveBlock) -> None:
        """A block of a device whose readings may be needed."""
        for key in self.wanted.get(device, ()):
            times = block.times
            later = times > self._newest[key]  # its clock may have been put back a little
            self._joins[key].push_signal(times[later], self._reading(key, block)[later])
            self._newest[key] = max(self._newest[key], float(times[-1]))

    def push_own(self, block: LiveBlock) -> None:
        """A block of the device itself, the next in order."""
        if not self.keys:
            return
        own = {key: self._reading(key, block) for key in self._own}
        self._waiting.append(_Waiting(block, own, {key: [] for key in self._joins}))
        for join in self._joins.values():
            join.push_instants(block.times)

    def take(self) -> list[bytes]:
        """Frames of the blocks for which all readings are here, or are given up."""
        if not self._waiting:
            return []
        given_up = self._waiting[-1].block.end_s - self._wait_s
        for key, join in self._joins.items():
            self._hand_out(key, join.take(given_up))
        frames = []
        while self._waiting and not any(self._waiting[0].lacks(key) for key in self._joins):
            frames.append(self._frame(self._waiting.popleft()))
        return frames

    def _hand_out(self, key: str, values: Array) -> None:
        """Readings of another device to the blocks that wait for them, in order."""
        for waiting in self._waiting:
            if not len(values):
                return
            count = waiting.lacks(key)
            waiting.others[key].append(values[:count])
            values = values[count:]

    def _frame(self, waiting: _Waiting) -> bytes:
        block = waiting.block
        readings = waiting.own | {k: np.concatenate(v) for k, v in waiting.others.items()}
        found = self._process.push(readings, block.follows and not self._afresh)
        self._afresh = False
        signals = [found[key] for key in self.keys]
        raw = [self._raw(key, block.summary) for key in self.keys]
        self._figures.fill(signals, raw, self._table[:, 1:])
        header = frame_header(self.layout.id, len(self.keys), self._bins, block.end_s, block.run_s)
        return header + self._table.tobytes()

    def _raw(self, key: str, summary: BlockSummary) -> float:
        """Mean of the raw signal; not a number of what is not measured here."""
        return float(summary.mean[self._chains[key][0]]) if key in self._own else float("nan")

    def _reading(self, key: str, block: LiveBlock) -> Array:
        row, chain = self._chains[key]
        return chain.apply(block.summary.ratios[row].astype(float))
