"""The writer's thread on PostgreSQL: away for a while, refusing for good, ending in time."""

import threading

import numpy as np
import pytest
from django.db import connection
from yoke_server.record.recorder.model.clock import SystemClock
from yoke_server.record.recorder.model.events import WriteRefused
from yoke_server.record.recorder.storage.bench_database import BenchDatabase
from yoke_server.record.recorder.storage.postgres.orders import PostgresOrders
from yoke_server.record.recorder.storage.postgres.samples import PostgresStore
from yoke_server.record.recorder.storage.resume import take_up
from yoke_server.record.recorder.storage.work import Close
from yoke_server.record.recorder.storage.writer import Writer, WriterThread
from yoke_server.record.recorder.stream.computed_writer import ComputedStream

from tests.processes import wait_for
from tests.recorded import begin, block, keeper, stream_of
from tests.server.lab import cut_connections, superuser

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def heard():
    return []


@pytest.fixture
def writer(setup, heard):
    database = BenchDatabase(PostgresStore(setup.bench_id), "a test")
    made = Writer(database, SystemClock(), heard.append, 1 << 20)
    made.thread = WriterThread(made, database)
    made.thread.start()
    assert made.holding.wait(5)
    yield made
    made.thread.finish(5)


def execute(statement):
    with connection.cursor() as cursor:
        cursor.execute(statement)


def given(writer, setup, blocks):
    """A run whose blocks were given to the writer."""
    run = begin(setup)
    one = keeper(run, stream_of(run), put=writer.put)
    for sequence in range(blocks):
        one.take(block(sequence))
    one.flush()
    return run


def test_everything_is_written_before_it_ends(writer, setup):
    run = given(writer, setup, 100)
    assert writer.thread.finish(20)
    assert run.streams.get().blocks.count() == 20
    assert writer.backlog_s == 0
    assert writer.room_bytes == 1 << 20


def test_a_connection_that_is_cut_costs_nothing(writer, setup):
    run = begin(setup)
    one = keeper(run, stream_of(run), put=writer.put)
    for sequence in range(60):
        one.take(block(sequence))
        if sequence % 20 == 10:
            wait_for(cut_connections, "a connection to cut")
    one.flush()
    wait_for(lambda: writer.idle, "the writer")
    rows = run.streams.get().blocks.order_by("first_sample").values_list("first_sample", "samples")
    assert [a for a, _ in rows] == [500 * i for i in range(12)]


def test_what_a_fresh_recorder_goes_on_from_is_on_the_disk(writer, setup):
    """A crash of the server would take it otherwise, and nobody would write it again."""
    given(writer, setup, 20)
    wait_for(lambda: writer.idle, "the writer")
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_current_wal_insert_lsn()")
        written = cursor.fetchone()
        take_up(PostgresOrders(setup.bench_id))
        cursor.execute("SELECT pg_current_wal_flush_lsn() >= %s", written)
        assert cursor.fetchone() == (True,)


def test_rows_are_kept_until_the_servers_log_is_on_its_disk(writer, setup):
    """Not for some time: who should flush it may be held up."""
    given(writer, setup, 100)
    wait_for(lambda: writer.idle, "the writer")
    assert len(writer._written.rows) > 0
    wait_for(lambda: not writer._written.rows, "the flush", 20)


def test_a_run_that_was_deleted_meanwhile_ends_nothing_but_itself(writer, setup, heard):
    run = given(writer, setup, 10)
    wait_for(lambda: writer.idle, "the writer")
    run.delete()
    writer.put(Close(run.pk, "interrupted", "deleted", []))
    other = given(writer, setup, 10)
    wait_for(lambda: other.streams.get().blocks.count() == 2, "the next run")


def test_a_connection_of_the_superuser_is_not_cut(db):
    with superuser() as link:
        cut_connections()
        link.execute("SELECT 1")


def test_what_is_refused_for_good_is_told_and_nothing_waits_behind_it(writer, setup, heard):
    run = begin(setup)
    stream = stream_of(run)
    one = keeper(run, stream, put=writer.put)
    execute("ALTER TABLE record_block ADD CONSTRAINT spoilt CHECK (first_sample <> 500)")
    try:
        for sequence in range(20):
            one.take(block(sequence))
        one.flush()
        refused = wait_for(lambda: [e for e in heard if isinstance(e, WriteRefused)], "the refusal")
        assert (refused[0].run_id, len(refused)) == (run.pk, 1)
        assert "spoilt" in refused[0].why
        writer.put(Close(run.pk, "interrupted", "refused", []))
        wait_for(lambda: writer.idle, "the writer")
    finally:
        execute("ALTER TABLE record_block DROP CONSTRAINT spoilt")
    kept = stream.blocks.order_by("first_sample").values_list("first_sample", flat=True)
    assert list(kept) == [0]  # what does not follow is no part of the run
    run.refresh_from_db()
    assert run.state == "interrupted"


def test_a_computed_row_that_is_refused_ends_no_run(writer, setup, heard):
    """Such a stream may be taken away at any moment: it can be made again."""
    run = begin(setup)
    one, gone = keeper(run, stream_of(run), put=writer.put), ComputedStream(10**9)
    for sequence in range(20):
        one.take(block(sequence))
        gone.push(np.ones(100))
        writer.put(gone.row(run.pk, 0.0))
    one.flush()
    wait_for(lambda: writer.idle, "the writer")
    assert run.streams.get().blocks.count() == 4
    assert not [e for e in heard if isinstance(e, WriteRefused)]


def test_an_end_does_not_wait_for_ever(writer, setup):
    run = begin(setup)
    one = keeper(run, stream_of(run), put=writer.put)
    locked, ending = threading.Event(), threading.Event()

    def lock():
        with connection.cursor() as cursor:
            cursor.execute("BEGIN; LOCK TABLE record_block IN ACCESS EXCLUSIVE MODE")
            locked.set()
            ending.wait(20)
            cursor.execute("ROLLBACK")
        connection.close()

    thread = threading.Thread(target=lock)
    thread.start()
    locked.wait(5)
    try:
        for sequence in range(10):
            one.take(block(sequence))
        assert writer.thread.finish(0.5) is False
        assert writer.backlog_s > 0
    finally:
        ending.set()
        thread.join()
