"""What a fresh recorder needs to go on with a run: the last rows of each stream, no more."""

import logging

import psycopg
from django.db import Error

from yoke_server.kinds.keep_rules.base import main_of
from yoke_server.record.envelopes import EnvelopeWriter
from yoke_server.record.levels import LEVELS
from yoke_server.record.models import RunState
from yoke_server.record.recorder.model.events import NoOpenRun, OpenRunLoaded
from yoke_server.record.recorder.model.progress import Closed, KeptStream, Place, ResumedStream
from yoke_server.record.recorder.storage.runs import close_run
from yoke_server.record.recorder.storage.sessions import OrderSession, StoredRun, StoredStream
from yoke_server.record.recorder.storage.work import Close

log = logging.getLogger(__name__)

UNREADABLE = "What was stored of it cannot be read, so the recorder could not go on with it"


def take_up(session: OrderSession) -> OpenRunLoaded | NoOpenRun:
    """The run that an earlier recorder left open, with all that is needed to go on with it.

    One that cannot be read is closed as interrupted: the bench is not held up by it.
    """
    run = session.open_run()
    if run is None:
        return NoOpenRun()
    session.put_on_disk()  # what is gone on from must not be lost in a crash any more
    try:
        setup = session.setup_of_run(run.run_id)
        main = main_of(setup.keep_rules)
        resumed = [(s, resume_stream(session, s)) for s in run.streams]
        streams = {s.device: one for s, one in resumed if main and s.rule == main[0]}
        kept = {
            (s.device, s.rule): _kept(s, one) for s, one in resumed if not main or s.rule != main[0]
        }
        progress = session.progress_of(run.run_id)
        found = (run.run_id, run.name, setup, run.start_ns, streams, kept, progress, run.is_dry)
        return OpenRunLoaded(*found)
    except (Error, psycopg.Error):
        raise
    except Exception:
        log.exception("%s cannot be read.", run.name)
        close_run(session, Close(run.run_id, RunState.INTERRUPTED, UNREADABLE, _ends(session, run)))
        return NoOpenRun()


def _kept(stream: StoredStream, resumed: ResumedStream) -> KeptStream:
    return KeptStream(
        resumed.stream_id,
        stream.planes,
        resumed.sample_bytes,
        resumed.samples,
        resumed.chain,
        resumed.envelope,
        resumed.beginning,
    )


def resume_stream(session: OrderSession, stream: StoredStream) -> ResumedStream:
    """Read a stream's last rows; the cost does not grow with its length."""
    last = session.last_row(stream.stream_id)
    segment = session.last_segment(stream.stream_id) if last else None
    place = stream.beginning.place
    if last and segment:
        place = Place(segment.acquisition, last.last_sequence + 1)
    return ResumedStream(
        stream.stream_id,
        place,
        last.end if last else 0,
        last.chain if last else b"",
        segment,
        _envelope(session, stream, last.end if last else 0),
        stream.beginning,
        stream.sample_bytes,
    )


def _envelope(session: OrderSession, stream: StoredStream, samples: int) -> EnvelopeWriter:
    key, channels = stream.stream_id, stream.planes
    writer = EnvelopeWriter(key, channels)
    rows = writer.resume(
        [session.envelope_end(key, level) for level in range(1, LEVELS + 1)],
        lambda first: session.read_samples(key, first, samples, channels),
        lambda level, first: session.read_envelope(key, level, first, channels),
    )
    # Rows that were full when the process died but never written: all but never any.
    session.add_envelope_rows(rows)
    return writer


def _ends(session: OrderSession, run: StoredRun) -> list[Closed]:
    """How far the streams of a run that cannot be gone on with had come."""
    ends = [(s.stream_id, session.last_row(s.stream_id)) for s in run.streams]
    return [Closed(key, last.end, last.chain) for key, last in ends if last]
