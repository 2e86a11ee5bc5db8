"""What a fresh recorder needs to go on with a run: the last rows of each stream, no more."""

from dataclasses import dataclass

import numpy as np
from django.db import connection
from yoke_core.envelope import Envelope

from yoke_server.record.envelopes import EnvelopeWriter, unpack
from yoke_server.record.levels import LEVELS
from yoke_server.record.models import Segment, Stream
from yoke_server.record.recorder.stream.timeline import PlacedSegment
from yoke_server.record.samples import read
from yoke_server.record.store import ENVELOPE_COPY, ENVELOPE_TYPES, copy_rows

REACHED_SQL = """
SELECT first_pair + pairs FROM record_enveloperow WHERE stream_id = %s AND level = %s
ORDER BY first_pair DESC LIMIT 1
"""


@dataclass(frozen=True, slots=True)
class ResumedStream:
    """Where a stream stands in the database; ``span`` is None before its first sample."""

    stream_id: int
    samples: int
    last_sequence: int
    chain: bytes
    span: PlacedSegment | None
    envelope: EnvelopeWriter


def resume_stream(stream: Stream) -> ResumedStream:
    """Read a stream's last rows; the cost does not grow with its length."""
    count = stream.channels.count()
    last = stream.blocks.order_by("-first_sample").defer("data").first()
    segment = stream.segments.order_by("-first_sample").first()
    samples = last.first_sample + last.samples if last else 0
    return ResumedStream(
        stream.pk,
        samples,
        last.last_sequence if last else -1,
        bytes(last.chain) if last else b"",
        _span(segment) if segment and last else None,
        _envelope(stream, count, samples),
    )


def _span(row: Segment) -> PlacedSegment:
    return PlacedSegment(
        row.first_sample, row.cause, row.device_ns, row.bench_ns, row.rate_hz, row.acquisition,
        row.missing_blocks,
    )  # fmt: skip


def _envelope(stream: Stream, channels: int, samples: int) -> EnvelopeWriter:
    def stored(first: int) -> np.ndarray:
        return read(stream, list(range(channels)), first, samples)

    def pairs(level: int, first: int) -> Envelope:
        rows = stream.envelope.filter(level=level, first_pair__gte=first).order_by("first_pair")
        found = [unpack(bytes(r.data), r.pairs) for r in rows]
        none = np.empty((channels, 0), np.float32)
        return Envelope(
            np.concatenate([none, *(f.low for f in found)], axis=1),
            np.concatenate([none, *(f.high for f in found)], axis=1),
        )

    reached = [_reached(stream.pk, level) for level in range(1, LEVELS + 1)]
    writer = EnvelopeWriter(stream.pk, channels)
    # Rows that were full when the process died but never written: all but never any.
    copy_rows(ENVELOPE_COPY, ENVELOPE_TYPES, writer.resume(reached, stored, pairs))
    return writer


def _reached(stream_id: int, level: int) -> int:
    with connection.cursor() as cursor:
        cursor.execute(REACHED_SQL, [stream_id, level])
        row = cursor.fetchone()
        return int(row[0]) if row else 0
