"""Queries on runs that several modules share."""

import json
from collections.abc import Iterable
from dataclasses import dataclass, field, replace
from datetime import date, datetime
from itertools import groupby
from typing import Any, NamedTuple

from django.conf import settings
from django.db.models.fields.json import KT
from django.db.models.functions import Coalesce
from pydantic import TypeAdapter

from yoke_server.common.db.prepared import ASKED, Prepared
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.specimens import SpecimenSpec
from yoke_server.record.models import OPEN_STATES, Cause, Correction, Run, RunState, Segment, Stream
from yoke_server.setups.document import FrozenSetup, read_document
from yoke_server.setups.models import Setup

PIECES: TypeAdapter[Any] = TypeAdapter(SpecimenSpec)
SPECIMEN = ("specimen", "piece")


def open_run(bench_id: int) -> Run | None:
    """The run that is being recorded on a bench, a dry one too."""
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


def day_of(run: Run) -> date:
    """The date on which a run began, where the laboratory is."""
    return run.started_at.astimezone(settings.LABORATORY_ZONE).date()


def pulled_specimens(setup: Setup) -> set[str]:
    """Names of the specimens of a setup's kept runs; no document is read for it."""
    found: dict[int, str | None] = dict(_PIECES.rows(setup.pk))
    found |= {run: name for run, name in _PIECES_CORRECTED.rows(setup.pk) if run in found}
    return {specimen or "" for specimen in found.values()}


class LastRevision(NamedTuple):
    """The number of a setup's revision, and the run that was recorded of it."""

    number: int
    run: str


def last_revision(setup_id: int) -> LastRevision | None:
    """Of the newest run that was recorded of a setup; None before the first."""
    recorded = Run.objects.filter(setup_id=setup_id, document__isnull=True, is_dry=False)
    found = recorded.order_by("-pk").values_list("revision__number", "name").first()
    return LastRevision(*found) if found else None


def last_start(setup_id: int) -> datetime | None:
    """When the newest run that was recorded of a setup began; None before the first."""
    recorded = Run.everything.filter(setup_id=setup_id, document__isnull=True)
    return recorded.order_by("-pk").values_list("started_at", flat=True).first()


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

    def stretched(self, factor: float) -> "StreamTimes":
        """The same with all times multiplied."""
        if factor == 1.0:
            return self
        segments = [
            replace(p, start_s=p.start_s * factor, rate_hz=p.rate_hz / factor)
            for p in self.segments
        ]
        return replace(self, segments=segments)

    def until(self, samples: int) -> "StreamTimes":
        """Its first samples alone."""
        if samples >= self.samples:
            return self
        known = [p for p in self.segments if p.first < samples]
        cut = [replace(p, last=min(p.last, samples)) for p in known]
        return replace(self, samples=samples, segments=cut)

    def place_of(self, seconds: float) -> int:
        """The sample at a time of the run, or the nearest before it; within the stream."""
        segment = next((p for p in reversed(self.segments) if p.start_s <= seconds), None)
        if segment is None:
            return 0
        away = min(max((seconds - segment.start_s) * segment.rate_hz, 0.0), 1e15)
        return min(segment.first + int(away + 1e-6), segment.last)

    @property
    def pieces(self) -> list[tuple[int, int]]:
        """[first, last) of samples that follow each other without a gap or a step."""
        groups = even_pieces(self.segments)
        return [(group[0].first, group[-1].last) for group in groups]

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


def even_pieces(segments: list[TimedSegment]) -> list[list[TimedSegment]]:
    """Pieces that follow each other without a gap or a step."""
    numbers, group = [], 0
    for segment in segments:
        group += segment.cause not in (Cause.START, Cause.CLOCK)
        numbers.append(group)
    pairs = groupby(zip(numbers, segments, strict=True), key=lambda pair: pair[0])
    return [[segment for _, segment in group] for _, group in pairs]


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
