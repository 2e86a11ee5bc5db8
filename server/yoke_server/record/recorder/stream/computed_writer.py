"""Keeping what is computed of one device's samples: a value beside each of them."""

import logging
from collections.abc import Callable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray
from yoke_core.signals.graph import SignalGraph
from yoke_core.signals.node import Node

from yoke_server.kinds.chain import chain_of
from yoke_server.record.envelopes import EnvelopeValues, EnvelopeWriter
from yoke_server.record.recorder.stream.positioned import PositionedBlock
from yoke_server.record.seal import seal
from yoke_server.record.store import Samples
from yoke_server.setups.document import FrozenChannel

log = logging.getLogger(__name__)

Array = NDArray[np.float64]
ROW_SECONDS = 2.0


class ComputedStream:
    """One channel's values on their way into rows."""

    def __init__(self, stream_id: int) -> None:
        self.stream_id = stream_id
        self.samples = 0  # in rows
        self._envelope = EnvelopeWriter(stream_id, 1)
        self._chain = b""
        self._waiting: list[Array] = []

    def push(self, values: Array) -> None:
        self._waiting.append(values)

    def row(self, run_id: int, arrived: float) -> Samples:
        """What waits, as one row."""
        values = np.concatenate(self._waiting)[None, :].astype(np.float32)
        self._waiting = []
        first, data = self.samples, values.data.cast("B")
        checksum, self._chain = seal(self._chain, first, data)
        self.samples += values.shape[1]
        block = (self.stream_id, first, values.shape[1], 0, 0, checksum, self._chain, data)
        rows = self._envelope.push(values)
        return Samples(self.stream_id, run_id, block, rows, arrived=arrived, computed=True)

    def finish(self) -> list[EnvelopeValues]:
        """Its envelope rows that are not full."""
        return self._envelope.finish()


class ComputedWriter:
    """Writes the signals of one device beside its raw samples, from the first of these on.

    All of it can be made again of the raw samples: a fault, or a database that is behind, ends it
    and costs the run nothing.

    streams : ids by channel key
    nodes : signals by channel key
    has_room : whether the database keeps up, so that these may be given to it too
    """

    def __init__(
        self,
        run_id: int,
        streams: Mapping[str, int],
        nodes: Mapping[str, Node],
        channels: Sequence[FrozenChannel],
        rate_hz: float,
        put: Callable[[Samples], None],
        monotonic: Callable[[], float],
        has_room: Callable[[], bool],
    ) -> None:
        self._run_id = run_id
        self._streams = {key: ComputedStream(streams[key]) for key in nodes}
        graph = SignalGraph(nodes)
        self._process = graph.start(rate_hz)
        self._chains = {
            c.key: (c.input_number - 1, chain_of(c)) for c in channels if c.key in graph.keys
        }
        self._row_samples = max(1, round(ROW_SECONDS * rate_hz))
        self._put, self._monotonic, self._has_room = put, monotonic, has_room
        self._last: PositionedBlock | None = None
        self._waiting = 0
        self._since = 0.0

    def push_block(self, placed: PositionedBlock) -> None:
        """The next in order. Raises nothing."""
        if not self._streams:
            return
        try:
            self._compute(placed)
        except Exception:
            log.exception("Computed channels are not stored any more; the worker makes them.")
            self._streams = {}

    def _compute(self, placed: PositionedBlock) -> None:
        summary = placed.summary
        readings = {
            key: chain.apply(summary.ratios[row].astype(float))
            for key, (row, chain) in self._chains.items()
        }
        found = self._process.push(readings, placed.continues(self._last))
        self._last = placed.bare()
        if not self._waiting:
            self._since = self._monotonic()
        for key, stream in self._streams.items():
            stream.push(found[key])
        self._waiting += summary.samples
        if self._waiting >= self._row_samples:
            self._flush()

    def _flush(self) -> None:
        if not self._waiting:
            return
        if not self._has_room():
            log.warning("The database is behind: computed channels are made when the run ends.")
            self._streams = {}
        for stream in self._streams.values():
            self._put(stream.row(self._run_id, self._since))
        self._waiting = 0

    def finish(self) -> "list[ComputedEnd]":
        """Everything out; how each stream ends."""
        self._flush()
        return [(s.stream_id, s.samples, s.finish()) for s in self._streams.values()]


# A stream's id, how many samples it holds, its envelope rows that are not full.
ComputedEnd = tuple[int, int, list[EnvelopeValues]]
