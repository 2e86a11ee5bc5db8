"""What happened since somebody last looked: in runs that were recorded then, with times."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum

from django.db.models import OuterRef, Q, QuerySet, Subquery

from yoke_server.record.drifts import RunDrift, drifts_since
from yoke_server.record.models import Cause, Marker, MarkerKind, Run, RunState, Segment

MOST = 200  # that are told, the newest ones
SAME_NS = 2_000_000_000  # gaps of several streams that lie closer are one


class Sort(StrEnum):
    """``RESTART``: of the recorder. Markers have the sorts of their kinds."""

    BEGINS = "begins"
    ENDS = "ends"
    INTERRUPTED = "interrupted"
    GAP = "gap"
    CLOCK = "clock"
    GUARD = "guard"
    MARKER = "marker"
    PAUSE = "pause"
    PROGRAMME = "programme"
    TRIGGER = "trigger"
    RESTART = "restart"


SORT_OF = {
    MarkerKind.GUARD: Sort.GUARD,
    MarkerKind.PERSON: Sort.MARKER,
    MarkerKind.PAUSE: Sort.PAUSE,
    MarkerKind.PROGRAMME: Sort.PROGRAMME,
    MarkerKind.TRIGGER: Sort.TRIGGER,
    MarkerKind.RESTART: Sort.RESTART,
}


@dataclass(frozen=True, slots=True)
class Happening:
    """One thing that happened in a run; ``words`` may be empty of a beginning."""

    at: datetime
    sort: Sort
    words: str
    run: int
    run_name: str
    setup: str
    project: str


@dataclass(frozen=True, slots=True)
class Since:
    """Since a moment: the newest happenings in order, how many there were of each sort, and how
    far runs that keep cycles have gone."""

    since: datetime
    counts: dict[str, int]
    happenings: list[Happening]
    drifts: list[RunDrift]


def since(moment: datetime) -> Since:
    """What happened in all runs, dry ones left out."""
    found = happenings_since(moment)
    counts: dict[str, int] = {}
    for one in found:
        counts[one.sort] = counts.get(one.sort, 0) + 1
    runs = list(_recorded_since(moment))
    return Since(moment, counts, found[-MOST:], drifts_since(runs, moment))


def happenings_since(moment: datetime) -> list[Happening]:
    """In order."""
    runs = _recorded_since(moment)
    found = [h for run in runs for h in _of_run(run, moment)]
    found += _of_markers(runs, moment)
    found += _of_segments(runs, moment)
    found.sort(key=lambda h: h.at)
    return found


def _recorded_since(moment: datetime) -> QuerySet[Run]:
    """Runs that were recorded at some time since, the imported ones left out."""
    lately = Q(ended_at__isnull=True) | Q(ended_at__gte=moment)
    return Run.objects.filter(lately, is_dry=False, document__isnull=True).select_related(
        "setup__project"
    )


def _happening(run: Run, at: datetime, sort: Sort, words: str) -> Happening:
    return Happening(at, sort, words, *_of(run))


def _of(run: Run) -> tuple[int, str, str, str]:
    return run.pk, run.name, run.setup.name, run.setup.project.name


def _of_run(run: Run, moment: datetime) -> Iterator[Happening]:
    if run.started_at >= moment:
        yield _happening(run, run.started_at, Sort.BEGINS, "")
    if run.ended_at and run.ended_at >= moment:
        sort = Sort.ENDS if run.state == RunState.KEPT else Sort.INTERRUPTED
        yield _happening(run, run.ended_at, sort, run.ended_because)


def _at(run: Run, at_ns: int) -> datetime:
    """When an instant of bench time was; the run began at one and the other."""
    return run.started_at + timedelta(microseconds=(at_ns - run.start_ns) / 1e3)


def _of_markers(runs: QuerySet[Run], moment: datetime) -> Iterator[Happening]:
    markers = (
        Marker.objects.filter(run__in=runs, kind__in=SORT_OF)
        .exclude(text="")
        .select_related("run__setup__project")
        .order_by("-at_ns")
    )
    for marker in markers[: 2 * MOST]:
        at = _at(marker.run, marker.at_ns)
        if at >= moment:
            sort = SORT_OF[MarkerKind(marker.kind)]
            yield _happening(marker.run, at, sort, marker.text)


def _of_segments(runs: QuerySet[Run], moment: datetime) -> Iterator[Happening]:
    """Gaps, and clocks that were put; one of several streams of a device is told once."""
    before = Segment.objects.filter(
        stream=OuterRef("stream"), first_sample__lt=OuterRef("first_sample")
    ).order_by("-first_sample")
    breaks = (
        Segment.objects.filter(stream__run__in=runs, cause__in=[Cause.GAP, Cause.STEP])
        .annotate(
            before_first=Subquery(before.values("first_sample")[:1]),
            before_ns=Subquery(before.values("bench_ns")[:1]),
            before_hz=Subquery(before.values("rate_hz")[:1]),
        )
        .select_related("stream__run__setup__project")
        .order_by("-bench_ns")
    )
    newest = sorted(
        breaks[: 10 * MOST], key=lambda s: (s.stream.run_id, s.stream.device_label, s.bench_ns)
    )
    last: tuple[int, str, int] | None = None
    for segment in newest:
        run, label = segment.stream.run, segment.stream.device_label
        place = (run.pk, label, segment.bench_ns)
        is_same = last and last[:2] == place[:2] and place[2] - last[2] < SAME_NS
        last = place
        at = _at(run, segment.bench_ns)
        if is_same or at < moment:
            continue
        if segment.cause == Cause.STEP:
            yield _happening(run, at, Sort.CLOCK, f"The clock of {label} was put")
        else:
            lost = _seconds_before(segment)
            yield _happening(run, at, Sort.GAP, f"{lost:.3g} s of {label} are missing")


def _seconds_before(segment: Segment) -> float:
    """That are missing ahead of a segment; it carries what `_of_segments` annotates."""
    first, ns, hz = segment.before_first, segment.before_ns, segment.before_hz  # type: ignore[attr-defined]
    if first is None:
        return 0.0
    end_ns = ns + (segment.first_sample - first) * 1e9 / hz
    return max(0.0, (segment.bench_ns - end_ns) * 1e-9)
