"""Keeping everything: from ordered blocks to rows of samples, envelope, segments and seal."""

from collections.abc import Callable

from yoke_core.block import BlockSummary, Place, summarise_block
from yoke_core.clock import ClockModel

from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.record.envelopes import EnvelopeValues, EnvelopeWriter
from yoke_server.record.recorder.storage.resume import ResumedStream
from yoke_server.record.recorder.stream.block_buffer import ROW_SECONDS, BlockBuffer
from yoke_server.record.recorder.stream.block_order import Missing, Ordered
from yoke_server.record.recorder.stream.timeline import PlacedSegment, Timeline
from yoke_server.record.seal import seal
from yoke_server.record.store import Samples, SegmentValues


class StreamWriter:
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
        self._columns = columns
        self._timeline = Timeline(clock, resumed.span if resumed else None)
        self._envelope = resumed.envelope if resumed else EnvelopeWriter(stream_id, len(columns))
        self._put = put
        self._monotonic = monotonic
        self._missing = 0  # blocks lost since the last one kept
        self._since = 0.0  # when the first of the waiting samples came
        self._row: BlockBuffer | None = None  # of those waiting
        self._first_ns = 0  # device time of the first of them
        self._segments: list[SegmentValues] = []
        self._last_sequence = -1

    @property
    def span(self) -> PlacedSegment | None:
        return self._timeline.span

    def place_of(self, block: SampleBlock) -> Place | None:
        """Where the signals of the block that is next in order may be put at once."""
        if self._columns != list(range(block.counts.shape[1])):
            return None
        row = self._row = self._row or BlockBuffer(len(self._columns), block)
        return row.place if row.has_room(block.samples) else None

    def take(self, item: Ordered, digest: BlockSummary | None = None) -> None:
        """The next in order; ``digest`` saves computing it again where the caller has it."""
        if isinstance(item, Missing):
            self.flush()
            self._missing += item.count
            return
        found = digest or summarise_block(item.counts, item.full_scale, item.rail, 1)
        span = self._timeline.place(item, self.samples, self._missing)
        if span:
            self.flush()
            self._segments.append(_segment(self.stream_id, span))
        self._missing = 0
        self._keep(item, found)

    def _keep(self, block: SampleBlock, digest: BlockSummary) -> None:
        if self._row and not self._row.has_room(block.samples):
            self.flush()
        row = self._row = self._row or BlockBuffer(len(self._columns), block)
        if not row.filled:
            self._first_ns, self._since = block.time_ns, self._monotonic()
        row.take(digest, self._columns)
        self._last_sequence = block.sequence
        self.samples += block.samples
        if not row.has_room(block.samples):
            self.flush()

    def tick(self) -> None:
        """Samples do not wait for others that stay away."""
        waits = self._row and self._row.filled
        if waits and self._monotonic() - self._since > 2 * ROW_SECONDS:
            self.flush()

    def flush(self) -> None:
        """Give out what waits as one row."""
        if self._row is None or not self._row.filled:
            return
        signals, self._row = self._row.end(), None
        rows = self._envelope.push(signals)
        data = signals.data.cast("B")
        first = self.samples - signals.shape[1]
        checksum, self.chain = seal(self.chain, first, data)
        block = (
            self.stream_id, first, signals.shape[1], self._last_sequence, self._first_ns,
            checksum, self.chain, data,
        )  # fmt: skip
        work = Samples(self.stream_id, self._run_id, block, rows, self._segments, self._since)
        self._segments = []
        self._put(work)

    def finish(self) -> list[EnvelopeValues]:
        """The run is over: everything out; gives the envelope rows that are not full."""
        self.flush()
        return self._envelope.finish()


def _segment(stream_id: int, span: PlacedSegment) -> SegmentValues:
    return (
        stream_id, span.first_sample, span.cause, span.device_ns, span.bench_ns, span.rate_hz,
        span.acquisition, span.missing_blocks,
    )  # fmt: skip
