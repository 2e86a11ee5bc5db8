"""What the recorder shows: sent without waiting, whatever the database does."""

import psycopg
import pytest
from django.db import connection
from yoke_server.live.protocol import BenchState, Phase
from yoke_server.record.recorder.display.pipelined_connection import MAX_UNANSWERED
from yoke_server.record.recorder.display.publisher import KEEP_FRAMES, LivePublisher

from tests.processes import environment, wait_for
from tests.server.lab import superuser

IDLE = BenchState(
    phase=Phase.IDLE,
    run=None,
    run_name="",
    elapsed_s=0.0,
    missing_blocks=0,
    backlog_s=0.0,
    queue_left_s=None,
    trouble="",
    free_bytes=None,
    linked=True,
    devices={},
    paused="",
    programme=None,
    tripped=[],
    kept=[],
    waiting="",
    dry=False,
    cycles=None,
    held_low=None,
    held_high=None,
    layouts=[],
    motion="",
    position_m=None,
    home=False,
    stopped_because="",
    latched=None,
)


@pytest.fixture
def bench(transactional_db, setup):
    return setup.bench


@pytest.fixture
def show(bench):
    made = LivePublisher(bench.pk)
    made.start()
    yield made
    made.finish()


def frames(bench_id):
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT payload FROM bench_liveframe WHERE bench_id = %s ORDER BY seq", [bench_id]
        )
        return [bytes(row[0]) for row in cursor.fetchall()]


def test_frames_state_and_news_arrive_in_order(bench, show):
    address = environment(connection.settings_dict["NAME"])["DATABASE_URL"]
    with psycopg.connect(address, autocommit=True) as ear:
        for channel in ("yoke_live", "yoke_state", "yoke_news"):
            ear.execute(f"LISTEN {channel}")
        for i in range(3):
            show.frame(bytes([i]))
        show.state(IDLE)
        show.news("bench")
        show.finish()
        heard = [n.channel for n in ear.notifies(timeout=5, stop_after=5)]
    assert heard == ["yoke_live"] * 3 + ["yoke_state", "yoke_news"]
    assert frames(bench.pk) == [b"\0", b"\1", b"\2"]
    bench.refresh_from_db()
    assert bench.state == IDLE.model_dump(mode="json")


def test_frames_are_pruned_by_bench(bench, show):
    other = LivePublisher(bench.pk + 1)
    other.start()
    for payload in [b"old"] * 2 * KEEP_FRAMES + [b"more"] * 2 * KEEP_FRAMES:
        show.frame(payload)
        show._line.wait(10)
    other.frame(b"its only one")
    for one in (show, other):
        one.finish()
    assert frames(bench.pk) == [b"more"] * (KEEP_FRAMES + 1)
    assert frames(bench.pk + 1) == [b"its only one"]


def test_a_database_that_stalls_is_not_waited_for(bench, show):
    with superuser() as lock:
        lock.execute("LOCK TABLE bench_liveframe IN ACCESS EXCLUSIVE MODE")
        for _ in range(3 * MAX_UNANSWERED):  # a call that waited would wait for ever
            show.frame(b"stalled" * 100)
        assert show._line.unanswered == MAX_UNANSWERED
    show._line.wait(10)
    show.frame(b"after")
    show.finish()
    found = frames(bench.pk)
    assert found[-1] == b"after"
    assert len(found) <= MAX_UNANSWERED + 1


def shown_at_last(show, bench):
    def arrived():
        show.frame(b"after")
        return b"after" in frames(bench.pk)

    wait_for(arrived, "a frame", 10)


def test_a_cut_connection_is_made_anew(bench, show):
    show.frame(b"before")
    pid = show._line._pg.backend_pid
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_terminate_backend(%s, 5000)", [pid])
    shown_at_last(show, bench)


def test_what_the_database_refuses_ends_nothing(bench, show):
    show.state(IDLE.model_copy(update={"run_name": "a\0b"}))  # jsonb takes no such character
    shown_at_last(show, bench)
