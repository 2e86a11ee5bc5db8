"""Reads of runs worth a name."""

from dataclasses import dataclass, field
from typing import Any

from django.db.models import QuerySet

from yoke_server.common.problems import Problem
from yoke_server.record.models import OPEN_STATES, Cause, Run, Segment, Stream
from yoke_server.wire.document import FrozenChannel, FrozenSetup, read_document

SPECIMEN = ("specimen", "width_m", "thickness_m", "gauge_length_m")


def open_run(bench_id: int) -> Run | None:
    """The run that is being recorded on a bench."""
    return Run.objects.filter(setup__bench_id=bench_id, state__in=OPEN_STATES).first()


def document_of(run: Run) -> FrozenSetup:
    """The setup as it stood for this run."""
    return read_document(run.revision.document)


def specimen_of(run: Run) -> dict[str, Any]:
    """The test piece as measured for the run, with what was put right since."""
    found = dict(run.revision.document["specimen"])
    for correction in run.corrections.all():
        found |= {k: v for k, v in correction.changes.items() if k in SPECIMEN}
    return found


def specimens_of(runs: "QuerySet[Run]") -> set[str]:
    """Names of the test pieces of some runs."""
    rows = runs.select_related("revision").prefetch_related("corrections")
    return {specimen_of(run)["specimen"] for run in rows}


@dataclass(frozen=True, slots=True)
class Piece:
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
    """A stream with its length so far and its pieces in time."""

    stream: Stream
    samples: int
    pieces: list[Piece]
    keys: list[str] = field(default_factory=list)

    @property
    def gaps(self) -> list[tuple[float, float]]:
        """(from, to) in seconds of the run, where blocks are missing."""
        return [
            (before.end_s, after.start_s)
            for before, after in zip(self.pieces, self.pieces[1:], strict=False)
            if after.cause == Cause.GAP
        ]


def window_of(times: StreamTimes, from_s: float | None, to_s: float | None) -> tuple[float, float]:
    """A window of a stream in seconds of the run; what is left out is where the stream ends.

    Raises a 422 problem for one that ends before it begins, or lies outside.
    """
    begin = times.pieces[0].start_s if times.pieces else 0.0
    end = times.pieces[-1].end_s if times.pieces else 0.0
    low = begin if from_s is None else from_s
    high = max(low, end) if to_s is None else to_s
    if low > high:
        raise Problem(
            422, "The window ends before it begins.", field="to_s", hint="Give a later end."
        )
    if times.pieces and (low > end or high < begin):
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
    samples = stream.samples if run.state not in OPEN_STATES else length_of(stream)
    rows = [s for s in stream.segments.all() if s.first_sample < samples]
    ends = [s.first_sample for s in rows[1:]] + [samples]
    pieces = [_piece(run, row, end) for row, end in zip(rows, ends, strict=True)] if rows else []
    keys = [c.channel_key for c in stream.channels.all()]
    return StreamTimes(stream, samples, pieces, keys)


def _piece(run: Run, row: Segment, end: int) -> Piece:
    start_s = (row.bench_ns - run.start_ns) * 1e-9
    return Piece(row.first_sample, end, start_s, row.rate_hz, row.cause, row.missing_blocks)


def streams_of(run: Run) -> list[StreamTimes]:
    rows = run.streams.prefetch_related("segments", "channels")
    return [times_of(run, stream) for stream in rows]


@dataclass(frozen=True, slots=True)
class ChannelOfRun:
    """Where a channel's samples stand, and how the run scaled them."""

    times: StreamTimes
    place: int
    settings: FrozenChannel


MOST_REMEMBERED = 256
_sealed: dict[tuple[int, str], ChannelOfRun] = {}


def channel_of_run(run_id: int, key: str) -> ChannelOfRun | None:
    """A channel of a run, with its samples so far.

    A sealed run never changes, so it is remembered: a plot that zooms asks for it often.
    """
    if found := _sealed.get((run_id, key)):
        return found
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
    channel = ChannelOfRun(times, times.keys.index(key), settings)
    if stream.run.seal:
        if len(_sealed) >= MOST_REMEMBERED:
            _sealed.clear()
        _sealed[run_id, key] = channel
    return channel


def _channel(run: Run, key: str) -> FrozenChannel | None:
    return next((c for c in document_of(run).channels if c.key == key), None)
