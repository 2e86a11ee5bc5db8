"""What lists and reports say of streams, against the segments themselves."""

import json

import pytest
from django.db import connection
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from yoke_server.record import streams
from yoke_server.record.models import Cause, Segment
from yoke_server.record.queries import times_of
from yoke_server.record.streams import streams_of, streams_of_runs

from tests.recorded import START, begin, block, keeper, stream_of

pytestmark = pytest.mark.django_db


@pytest.fixture
def run(setup):
    return begin(setup)


@pytest.fixture
def stream(run):
    return stream_of(run)


def add_segments(stream, causes, missing_first=0):
    """One each 50 samples at 1000 Hz; a gap takes a second, a step half of one."""
    pause = {"gap": 10**9, "step": 5 * 10**8}
    at = START
    for i, cause in enumerate(causes):
        at += 50_000_000 * bool(i) + pause.get(cause, 0)
        Segment.objects.create(
            stream=stream,
            first_sample=50 * i,
            cause=cause,
            device_ns=0,
            bench_ns=at,
            rate_hz=1000.0,
            acquisition=1,
            missing_blocks=0 if i else missing_first,
        )


STATES = st.sampled_from(["recording", "kept"])
CAUSES = st.lists(st.sampled_from(["clock", "gap", "step"]), max_size=12)


@settings(max_examples=80, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(causes=CAUSES, samples=st.integers(0, 700), state=STATES, missing=st.integers(0, 1))
def test_all_is_as_the_segments_have_it(run, stream, causes, samples, state, missing):
    stream.segments.all().delete()
    stream.blocks.all().delete()
    add_segments(stream, ["start", *causes], missing)
    run.state, stream.samples = state, samples
    run.save()
    stream.save()
    if samples:
        stream.blocks.create(
            first_sample=0,
            samples=samples,
            last_sequence=1,
            device_ns=0,
            checksum=0,
            chain=b"",
            data=b"",
        )
    (found,), times = streams_of(run.pk), times_of(run, stream)
    segments = times.segments
    assert (found.id, found.device, found.rate_hz) == (stream.pk, "A1", 1000.0)
    assert (found.samples, found.channels) == (samples, times.keys)
    assert found.start_s == pytest.approx(segments[0].start_s if segments else 0.0)
    assert found.end_s == pytest.approx(segments[-1].end_s if segments else 0.0)
    assert [x for gap in found.gaps for x in gap] == pytest.approx(
        [x for gap in times.gaps for x in gap]
    )
    assert found.clock_steps == sum(p.cause == Cause.STEP for p in segments)


def test_runs_of_a_page_are_asked_for_at_once(setup, django_assert_num_queries):
    runs = [begin(setup, number) for number in (1, 2)]
    for run in runs:
        one = keeper(run, stream_of(run))
        one.take(block(0))
        one.flush()
    with django_assert_num_queries(0):  # by the driver's own cursor, once
        found = streams_of_runs([*(run.pk for run in runs), 0])
    assert {run: [s.samples for s in of] for run, of in found.items()} == {
        runs[0].pk: [100],
        runs[1].pk: [100],
        0: [],
    }
    assert streams_of_runs([]) == {}


def pages_read(run):
    """Of tables and indexes, for what a list says of a run."""
    causes = {"gap": "gap", "step": "step"}
    wanted = causes | {"runs": [run.pk], "open": "recording", "timed": "timed", "most": 9}
    sql = f"EXPLAIN (ANALYZE, BUFFERS, FORMAT JSON) {streams.STREAMS_SQL}"
    with connection.cursor() as cursor:
        cursor.execute(sql, wanted)
        (plan,) = cursor.fetchone()
    top = (json.loads(plan) if isinstance(plan, str) else plan)[0]["Plan"]
    return top["Shared Hit Blocks"] + top["Shared Read Blocks"]


def test_a_month_costs_a_list_no_more_than_a_minute(setup):
    found = []
    for number, segments in ((1, 3), (2, 2000)):
        run = begin(setup, number, state="kept")
        stream = stream_of(run)
        stream.samples = 50 * segments
        stream.save()
        add_segments(stream, ["start", *["clock"] * (segments - 2), "gap"])
        found.append(run)
    with connection.cursor() as cursor:
        cursor.execute("ANALYZE record_segment")
    for run in found:
        pages_read(run)
    minute, month = map(pages_read, found)
    assert month <= minute + 20
