"""Keeping everything: from ordered blocks to rows of samples, envelope, segments and seal."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from yoke_core.block import BlockDigest, digest_block
from yoke_core.clock import ClockModel

from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.record.envelopes import EnvelopeValues, EnvelopeWriter
from yoke_server.record.recorder.block_order import Missing, Ordered
from yoke_server.record.recorder.resume import ResumedStream
from yoke_server.record.recorder.timeline import Span, Timeline
from yoke_server.record.seal import seal
from yoke_server.record.store import Samples, SegmentValues

ROW_SECONDS = 0.5  # samples are on their way to the disk after so long, at the latest
ROW_BYTES = 1 << 20

Signals = NDArray[np.float32]


class Keeper:
    """Keeps every sample of one device's channels in one stream.

    Blocks of a tenth of a second are put together into rows of half a second, so that a
    month is some millions of rows and not tens of them. ``put`` takes what is to be stored.
    """

    def __init__(
        self,
        run_id: int,
        stream_id: int,
        columns: list[int],
        clock: ClockModel,
        put: Callable[[Samples], None],
        monotonic: Callable[[], float],
        resumed: ResumedStream | None = None,
    ) -> None:
        self.stream_id = stream_id
        self.samples = resumed.samples if resumed else 0
        self.chain = resumed.chain if resumed else b""
        self._run_id = run_id
        self._columns = np.array(columns, dtype=np.intp)
        self._timeline = Timeline(clock, resumed.span if resumed else None)
        self._envelope = resumed.envelope if resumed else EnvelopeWriter(stream_id, len(columns))
        self._put = put
        self._monotonic = monotonic
        self._missing = 0  # blocks lost since the last one kept
        self._since = 0.0  # when the first of the waiting samples came
        self._waiting: list[Signals] = []
        self._segments: list[SegmentValues] = []
        self._first: SampleBlock | None = None  # of those waiting
        self._last_sequence = -1

    @property
    def span(self) -> Span | None:
        return self._timeline.span

    def take(self, item: Ordered, digest: BlockDigest | None = None) -> None:
        """The next in order; ``digest`` saves computing it again where the caller has it."""
        if isinstance(item, Missing):
            self.flush()
            self._missing += item.count
            return
        found = digest or digest_block(item.counts, item.full_scale, item.rail, 1)
        span = self._timeline.place(item, self.samples, self._missing)
        if span:
            self.flush()
            self._segments.append(_segment(self.stream_id, span))
        self._missing = 0
        self._keep(item, found)
        if self._row_is_full(item):
            self.flush()

    def _keep(self, block: SampleBlock, digest: BlockDigest) -> None:
        if self._first is None:
            self._first, self._since = block, self._monotonic()
        signals = digest.ratios
        if len(self._columns) < len(signals):
            signals = signals[self._columns]
        self._waiting.append(signals)
        self._last_sequence = block.sequence
        self.samples += block.samples

    def _row_is_full(self, block: SampleBlock) -> bool:
        waiting = sum(w.shape[1] for w in self._waiting)
        seconds = waiting / block.rate_hz
        return seconds > ROW_SECONDS - 0.5 * block.samples / block.rate_hz or (
            4 * waiting * len(self._columns) >= ROW_BYTES
        )

    def tick(self) -> None:
        """Samples do not wait for others that stay away."""
        if self._first and self._monotonic() - self._since > 2 * ROW_SECONDS:
            self.flush()

    def flush(self) -> None:
        """Give out what waits as one row."""
        if self._first is None:
            return
        signals = self._waiting[0]
        if len(self._waiting) > 1:
            signals = np.concatenate(self._waiting, axis=1)
        rows = self._envelope.push(signals)
        data = signals.data.cast("B")
        first = self.samples - signals.shape[1]
        checksum, self.chain = seal(self.chain, first, data)
        block = (
            self.stream_id, first, signals.shape[1], self._last_sequence, self._first.time_ns,
            checksum, self.chain, data,
        )  # fmt: skip
        work = Samples(self.stream_id, self._run_id, block, rows, self._segments, self._since)
        self._segments = []
        self._first, self._waiting = None, []
        self._put(work)

    def finish(self) -> list[EnvelopeValues]:
        """The run is over: everything out; gives the envelope rows that are not full."""
        self.flush()
        return self._envelope.finish()


def _segment(stream_id: int, span: Span) -> SegmentValues:
    return (
        stream_id, span.first_sample, span.cause, span.device_ns, span.bench_ns, span.rate_hz,
        span.acquisition, span.missing_blocks,
    )  # fmt: skip
