"""What a fresh recorder process does with a run that its predecessor left open."""

import numpy as np

from yoke_server.record.envelopes import EnvelopeWriter
from yoke_server.record.models import Stream
from yoke_server.record.recorder.session import Session
from yoke_server.record.samples import blocks
from yoke_server.record.store import ENVELOPE_COPY, ENVELOPE_TYPES, copy_rows


def rebuild_envelope(stream: Stream) -> EnvelopeWriter:
    """Fold the stored blocks anew: rows that were not full died with the process."""
    stream.envelope.all().delete()
    envelope = EnvelopeWriter(stream.pk, stream.channel_count)
    reached = 0
    for start, data in blocks(stream):
        if start > reached:
            hole = np.full((stream.channel_count, start - reached), np.nan, np.float32)
            copy_rows(ENVELOPE_COPY, ENVELOPE_TYPES, envelope.push(hole))
        copy_rows(ENVELOPE_COPY, ENVELOPE_TYPES, envelope.push(data))
        reached = start + data.shape[1]
    stream.samples = reached
    return envelope


def resume(session: Session) -> bool:
    """Prepare ``session`` to go on after the last committed block; False if there is none."""
    stream = session.run.streams.order_by("-pk").first()
    last = stream.blocks.order_by("-sequence").first() if stream else None
    if stream is None or last is None:
        return False
    session.resume(stream, last.sequence, rebuild_envelope(stream))
    return True
