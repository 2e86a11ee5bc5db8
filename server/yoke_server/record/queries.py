"""Queries on runs that several modules share."""

import json
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from typing import Any

from django.db.models.fields.json import KT
from django.db.models.functions import Coalesce
from pydantic import TypeAdapter

from yoke_server.common.db.prepared import ASKED, Prepared
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.specimens import SpecimenSpec
from yoke_server.record.models import OPEN_STATES, Cause, Correction, Run, RunState, Segment, Stream
from yoke_server.record.samples import driver_cursor
from yoke_server.setups.document import FrozenChannel, FrozenSetup, read_document
from yoke_server.setups.models import Setup

PIECES: TypeAdapter[Any] = TypeAdapter(SpecimenSpec)
SPECIMEN = ("specimen", "piece")


def open_run(bench_id: int) -> Run | None:
    """The run that is being recorded on a bench."""
    return Run.objects.filter(setup__bench_id=bench_id, state__in=OPEN_STATES).first()


def document_of(run: Run) -> FrozenSetup:
    """The setup as it stood for this run."""
    return read_document(run.document or run.revision.document).as_recorded


def specimen_of(run: Run) -> dict[str, object]:
    """The test piece as measured for the run, with what was put right since."""
    found = document_of(run).specimen.model_dump(mode="json")
    for correction in run.corrections.all():
        found |= {k: v for k, v in correction.changes.items() if k in SPECIMEN}
    return found


def piece_of(run: Run) -> Any:
    """What was tested, as a spec, with what was put right since."""
    return PIECES.validate_json(json.dumps(specimen_of(run)["piece"]))


_PIECES = Prepared(
    lambda: Run.objects.filter(setup_id=ASKED, state=RunState.KEPT).values_list(
        "pk", Coalesce(KT("document__specimen__specimen"), "revision__specimen")
    )
)
_PIECES_CORRECTED = Prepared(
    lambda: (
        Correction.objects.filter(run__setup_id=ASKED, changes__has_key="specimen")
        .order_by("pk")
        .values_list("run_id", KT("changes__specimen"))
    )
)


def pulled_specimens(setup: Setup) -> set[str]:
    """Names of the specimens of a setup's kept runs; no document is read for it."""
    found: dict[int, str | None] = dict(_PIECES.rows(setup.pk))
    found |= {run: name for run, name in _PIECES_CORRECTED.rows(setup.pk) if run in found}
    return {specimen or "" for specimen in found.values()}


@dataclass(frozen=True, slots=True)
class TimedSegment:
    """Samples that lie evenly in the run's time: [first, last) from ``start_s`` on."""

    first: int
    last: int
    start_s: float
    rate_hz: float
    cause: str
    missing_blocks: int

    @property
    def end_s(self) -> float:
        return self.start_s + (self.last - self.first) / self.rate_hz


@dataclass(frozen=True, slots=True)
class StreamTimes:
    """A stream with its length so far and its segments in time; of an ``open`` run it grows."""

    stream: Stream
    samples: int
    segments: list[TimedSegment]
    keys: list[str] = field(default_factory=list)
    open: bool = False

    def seconds_of(self, samples: Any) -> Any:
        """Seconds of the run at which some samples (an array of places) were taken."""
        import numpy as np

        firsts = np.array([p.first for p in self.segments])
        piece = np.clip(np.searchsorted(firsts, samples, side="right") - 1, 0, None)
        start = np.array([p.start_s for p in self.segments])
        rate = np.array([p.rate_hz for p in self.segments])
        return start[piece] + (samples - firsts[piece]) / rate[piece]

    @property
    def gaps(self) -> list[tuple[float, float]]:
        """(from, to) in seconds of the run, where blocks are missing."""
        first = self.segments[:1] if self.segments and self.segments[0].missing_blocks else []
        return [(0.0, piece.start_s) for piece in first] + [
            (before.end_s, after.start_s)
            for before, after in zip(self.segments, self.segments[1:], strict=False)
            if after.cause == Cause.GAP
        ]


def window_of(times: StreamTimes, from_s: float | None, to_s: float | None) -> tuple[float, float]:
    """A window of a stream in seconds of the run; what is left out is where the stream ends.

    Raises a 422 problem for one that ends before it begins, or lies outside.
    """
    begin = times.segments[0].start_s if times.segments else 0.0
    end = times.segments[-1].end_s if times.segments else 0.0
    low = begin if from_s is None else from_s
    high = max(low, end) if to_s is None else to_s
    if low > high:
        raise Problem(
            422, "The window ends before it begins.", field="to_s", hint="Give a later end."
        )
    if times.segments and (low > end or high < begin):
        raise Problem(
            422,
            f"The window lies outside the run, which goes from {begin:.6g} to {end:.6g} s.",
            field="from_s",
            hint="Give a window inside it.",
        )
    return low, high


def length_of(stream: Stream) -> int:
    """Samples so far, from the last row."""
    last = stream.blocks.order_by("-first_sample").values_list("first_sample", "samples").first()
    return sum(last) if last else 0


def times_of(run: Run, stream: Stream) -> StreamTimes:
    """Where a stream's samples lie in the time of the run."""
    is_open = run.state in OPEN_STATES
    samples = length_of(stream) if is_open else stream.samples
    keys = [c.channel_key for c in stream.channels.all()]
    segments = _timed_segments(run, stream.segments.all(), samples)
    return StreamTimes(stream, samples, segments, keys, is_open)


def _timed_segments(run: Run, segments: Iterable[Segment], samples: int) -> list[TimedSegment]:
    """A segment goes to where the next one begins, the last to the end."""
    rows = [s for s in segments if s.first_sample < samples]
    ends = [*(s.first_sample for s in rows[1:]), samples]
    return [_timed_segment(run, row, end) for row, end in zip(rows, ends, strict=False)]


def _timed_segment(run: Run, row: Segment, end: int) -> TimedSegment:
    start_s = (row.bench_ns - run.start_ns) * 1e-9
    return TimedSegment(row.first_sample, end, start_s, row.rate_hz, row.cause, row.missing_blocks)


@dataclass(frozen=True, slots=True)
class ChannelOfRun:
    """Where a channel's samples stand, and how the run scaled them.

    fresh : of an open run the samples that came since it was looked at before, as stored
    looked_up : the same for as long as samples were only added
    """

    times: StreamTimes
    place: int
    settings: FrozenChannel
    fresh: bytes = b""
    looked_up: object = field(default_factory=object)


# What a look at an open run asks anew: whether it has ended or has another segment, and its newer
# blocks, of which one channel's part.
GROWN_SQL = """
SELECT r.state, EXISTS (SELECT 1 FROM record_segment
                        WHERE stream_id = s.id AND first_sample > %(segment)s),
       b.first_sample, b.samples, substr(b.data,
           1 + %(bytes)s * b.samples * %(channel)s, %(bytes)s * b.samples)
FROM record_stream s JOIN record_run r ON r.id = s.run_id
LEFT JOIN record_block b ON b.stream_id = s.id
    AND b.first_sample >= %(known)s AND b.first_sample < %(known)s + %(most)s
WHERE s.id = %(stream)s ORDER BY b.first_sample
"""
MAX_FRESH = 1 << 18  # samples; of a run that grew by more, all is looked up again
MAX_REMEMBERED = 256

_known: dict[tuple[int, str], ChannelOfRun] = {}


def channel_of_run(run_id: int, key: str, until_s: float | None = None) -> ChannelOfRun | None:
    """A channel of a run, with its samples so far, or at least those ``until_s``.

    What was seen once is remembered, since a plot that zooms or follows asks for it often: a
    closed run never changes, an open one only grows.
    """
    known = _known.get((run_id, key))
    if known and (not known.times.open or _reaches(known.times, until_s)):
        return known
    known = (_grown(known) if known else None) or _look_up(run_id, key)
    if known is None:
        return None
    if len(_known) >= MAX_REMEMBERED:
        _known.clear()
    _known[run_id, key] = known
    return known


def _reaches(times: StreamTimes, until_s: float | None) -> bool:
    return until_s is not None and bool(times.segments) and until_s <= times.segments[-1].end_s


def _look_up(run_id: int, key: str) -> ChannelOfRun | None:
    stream = (
        Stream.objects.filter(run_id=run_id, channels__channel_key=key)
        .select_related("run__revision")
        .prefetch_related("segments", "channels")
        .first()
    )
    settings = _channel(stream.run, key) if stream else None
    if stream is None or settings is None:
        return None
    times = times_of(stream.run, stream)
    return ChannelOfRun(times, times.keys.index(key), settings)


def _grown(known: ChannelOfRun) -> ChannelOfRun | None:
    """The same a moment later; None if more has changed than that samples were added."""
    times = known.times
    if not times.segments:
        return None
    wanted = {
        "stream": times.stream.pk,
        "channel": known.place,
        "known": times.samples,
        "segment": times.segments[-1].first,
        "most": MAX_FRESH,
        "bytes": times.stream.sample_bytes,
    }
    rows = driver_cursor().execute(GROWN_SQL, wanted, prepare=True, binary=True).fetchall()
    if not rows or rows[0][0] not in OPEN_STATES or rows[0][1]:
        return None
    blocks = [row[2:] for row in rows if row[2] is not None]
    ends = [times.samples, *(first + samples for first, samples, _ in blocks)]
    fits = all(first == end for (first, *_), end in zip(blocks, ends, strict=False))
    if not fits or ends[-1] - times.samples >= MAX_FRESH:
        return None
    last = replace(times.segments[-1], last=ends[-1])
    grown = replace(times, samples=last.last, segments=[*times.segments[:-1], last])
    return replace(known, times=grown, fresh=b"".join(part for *_, part in blocks))


def _channel(run: Run, key: str) -> FrozenChannel | None:
    return next((c for c in document_of(run).channels if c.key == key), None)
