"""Keeping everything: from placed blocks to rows of samples, envelope, segments and seal."""

from collections.abc import Callable
from dataclasses import replace

from yoke_core.streaming.block import Place as RowPosition

from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.record.envelopes import EnvelopeValues, EnvelopeWriter
from yoke_server.record.models import Cause
from yoke_server.record.recorder.model.progress import Place, ResumedStream
from yoke_server.record.recorder.model.segments import PlacedSegment
from yoke_server.record.recorder.stream.block_buffer import ROW_SECONDS, BlockBuffer
from yoke_server.record.recorder.stream.positioned import PositionedBlock
from yoke_server.record.seal import seal
from yoke_server.record.store import Samples, SegmentValues


class StreamWriter:
    """Keeps every sample of one device's channels in one stream.

    Blocks of a tenth of a second are put together into rows of half a second, so that a
    month is some millions of rows and not tens of them. ``put`` takes what is to be stored.

    beginning : the first block that belongs to the stream; what is missing from there shows
    """

    def __init__(
        self,
        run_id: int,
        stream_id: int,
        columns: list[int],
        beginning: Place,
        put: Callable[[Samples], None],
        monotonic: Callable[[], float],
        resumed: ResumedStream | None = None,
        sample_bytes: int = 4,
    ) -> None:
        self.stream_id = stream_id
        self._sample_bytes = sample_bytes
        self.samples = resumed.samples if resumed else 0
        self.chain = resumed.chain if resumed else b""
        self._run_id = run_id
        self._columns = columns
        self._next = resumed.place.sequence if resumed else beginning.sequence
        self._segment = resumed.segment if resumed else None  # of the device's line
        self._until_ns = self._segment.bench_of(self.samples) if self._segment else 0
        self._envelope = resumed.envelope if resumed else EnvelopeWriter(stream_id, len(columns))
        self._put = put
        self._monotonic = monotonic
        self._since = 0.0  # when the first of the waiting samples came
        self._row: BlockBuffer | None = None  # of those waiting
        self._first_ns = 0  # device time of the first of them
        self._segments: list[SegmentValues] = []
        self._progress = ""
        self._skipped = False  # blocks that were left out on purpose since the last one

    @property
    def next(self) -> int:
        """The sequence of the block that comes next; what is before it is stored."""
        return self._next

    @property
    def nbytes(self) -> int:
        """Of all its samples so far."""
        return self.samples * len(self._columns) * self._sample_bytes

    def row_position(self, block: SampleBlock) -> RowPosition | None:
        """Where the signals of the block that comes next may be put at once."""
        if block.sequence < self._next or self._columns != list(range(block.counts.shape[1])):
            return None
        row = self._row = self._row or self._buffer_for(block)
        return row.place if row.has_room(block.samples) else None

    def _buffer_for(self, block: SampleBlock) -> BlockBuffer:
        return BlockBuffer(len(self._columns), block, self._sample_bytes)

    def begin_at(self, sequence: int) -> None:
        """The stream begins with this block: what was before it was not to be kept."""
        self._next = sequence

    def skip_block(self, placed: PositionedBlock) -> None:
        """Leave out the next in order, on purpose: what follows is a segment of its own."""
        self.flush()
        self._next, self._skipped = placed.block.sequence + 1, True

    def push_block(self, placed: PositionedBlock, progress: str = "") -> None:
        """The next in order.

        progress : what the run has reached with this block, as JSON; stored with its row
        """
        block = placed.block
        missing = block.sequence - self._next
        if missing or self._skipped or placed.segment != self._segment:
            self.flush()
            self._segments.append(self._segment_row(placed, missing))
            self._segment, self._skipped = placed.segment, False
        if self._row and not self._row.has_room(block.samples):
            self.flush()
        row = self._row = self._row or self._buffer_for(block)
        if not row.filled:
            self._first_ns, self._since = block.time_ns, self._monotonic()
        row.push_block(placed.summary, self._columns)
        self._next, self._progress = block.sequence + 1, progress
        self._until_ns = placed.end_ns
        self.samples += block.samples
        if not row.has_room(block.samples):
            self.flush()

    def _segment_row(self, placed: PositionedBlock, missing: int) -> SegmentValues:
        """A segment of the device's line as one of the stream, which begins with this block."""
        line = placed.segment
        if self._segment is None:
            cause = Cause.START
        elif self._skipped:
            cause = Cause.PAUSE
        elif missing:
            cause = Cause.GAP
        else:  # what began a line, or was missing on it, was noted before a recorder took it up
            begun = (Cause.START, Cause.GAP)
            cause = Cause.CLOCK if line.cause in begun else Cause(line.cause)
        begins_ns = not_before(placed.begin_ns, self._until_ns, line.rate_hz)
        here = replace(line, bench_ns=begins_ns, device_ns=placed.block.time_ns)
        return _row_of(self.stream_id, self.samples, cause, here, missing)

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
            self.stream_id,
            first,
            signals.shape[1],
            self._next - 1,
            self._first_ns,
            checksum,
            self.chain,
            data,
        )
        segments, self._segments = self._segments, []
        self._put(
            Samples(
                self.stream_id, self._run_id, block, rows, segments, self._since, self._progress
            )
        )

    def finish(self) -> list[EnvelopeValues]:
        """The run is over: everything out; gives the envelope rows that are not full."""
        self.flush()
        return self._envelope.finish()


def not_before(begin_ns: int, until_ns: int, rate_hz: float) -> int:
    """Where a segment begins, when the one before it goes to ``until_ns``: a line that was taken
    up may place its samples a little sooner than they follow from what is stored."""
    is_close = 0 < until_ns - begin_ns < 1e9 / rate_hz
    return until_ns if is_close else begin_ns


def _row_of(
    stream_id: int, first: int, cause: Cause, segment: PlacedSegment, missing: int
) -> SegmentValues:
    return (
        stream_id,
        first,
        cause.value,
        segment.device_ns,
        segment.bench_ns,
        segment.rate_hz,
        segment.acquisition,
        missing,
    )
