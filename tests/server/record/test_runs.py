"""RunStarter a run in the database: whole or not at all, once, and only by a living order."""

from datetime import UTC, datetime, timedelta

import psycopg
import pytest
from django.db import IntegrityError, OperationalError, connection
from yoke_server.bench.models import Order, OrderState, RecorderSign
from yoke_server.record.models import Layout, Run, Stream, StreamChannel
from yoke_server.record.recorder.model.events import Began, NotBegun
from yoke_server.record.recorder.model.progress import Place, StreamOrigin
from yoke_server.record.recorder.storage.bench_database import BenchDatabase, Hold
from yoke_server.record.recorder.storage.postgres.runs import PostgresRuns
from yoke_server.record.recorder.storage.postgres.samples import LOCK_CLASS, PostgresStore
from yoke_server.record.recorder.storage.runs import begin_run
from yoke_server.record.recorder.storage.work import Plan, StreamPlan
from yoke_server.record.store import will_pass
from yoke_server.setups.freezing import freeze

from tests.processes import wait_for

BEGINNING = StreamOrigin(Place(3, 70), 9, 5)


@pytest.fixture
def order(setup):
    now = datetime.now(UTC)
    return Order.objects.create(
        bench=setup.bench,
        kind="start",
        requested_at=now,
        expires_at=now + timedelta(seconds=8),
        state=OrderState.CLAIMED,
    )


@pytest.fixture
def session(setup):
    return PostgresRuns(setup.bench_id)


@pytest.fixture
def plan(setup, order):
    frozen = freeze(setup)
    revision = setup.revisions.get(number=setup.version)
    streams = [
        StreamPlan(label, "everything", Layout.UNIFORM, rate, BEGINNING, frozen.of_device(label))
        for label, rate in {"A1": 1000.0, "A2": 500.0}.items()
    ]
    return Plan(str(order.pk), revision.pk, None, 5, streams)


def test_a_run_begins_with_its_streams_and_the_orders_answer(session, plan, order):
    began = begin_run(session, plan)
    assert isinstance(began, Began)
    run = Run.objects.get(pk=began.run_id)
    assert (run.name, run.number, run.state) == ("C1 run 1", 1, "recording")
    assert set(began.streams) == {("A1", "everything"), ("A2", "everything")}
    stream = began.streams["A1", "everything"]
    keys = StreamChannel.objects.filter(stream=stream).values_list("channel_key")
    assert [k for (k,) in keys] == [c.key for c in plan.streams[0].channels]
    places = Stream.objects.values_list("first_acquisition", "first_sequence")
    assert set(places) == {(3, 70)}
    assert run.progress.reached == {}
    order.refresh_from_db()
    assert (order.state, order.answer) == (OrderState.DONE, {"run": run.pk})


def test_asked_again_after_a_lost_answer_it_is_the_same_run(session, plan):
    first = begin_run(session, plan)
    plan.cancelled = "Emergency stop."  # called off meanwhile: it must be closed, not forgotten
    assert begin_run(session, plan) == first
    assert Run.objects.count() == 1


def test_an_error_between_two_rows_leaves_nothing(session, plan, order, monkeypatch):
    make, made = session.add_stream, []

    def fail_at_the_second(*arguments):
        if made:
            raise IntegrityError("no room for another stream")
        made.append(make(*arguments))

    monkeypatch.setattr(session, "add_stream", fail_at_the_second)
    answer = begin_run(session, plan)
    assert isinstance(answer, NotBegun)
    assert "no room for another stream" in answer.why
    assert (Run.objects.count(), Stream.objects.count()) == (0, 0)
    order.refresh_from_db()
    assert order.state == OrderState.CLAIMED  # so the recorder can still answer it


@pytest.mark.parametrize(
    "change",
    [
        {"state": OrderState.REFUSED},
        {"state": OrderState.WAITING},
        {"expires_at": datetime(2026, 1, 1, tzinfo=UTC)},
    ],
    ids=["given up", "never claimed", "past"],
)
def test_an_order_that_does_not_live_begins_nothing(session, plan, order, change):
    Order.objects.filter(pk=order.pk).update(**change)
    assert isinstance(begin_run(session, plan), NotBegun)
    assert Run.objects.count() == 0


def test_a_start_that_was_called_off_begins_nothing(session, plan):
    plan.cancelled = "Emergency stop."
    assert begin_run(session, plan) == NotBegun(plan.order_key, "Emergency stop.")
    assert Run.objects.count() == 0


@pytest.fixture
def other(transactional_db):
    """Another session of the database, as of another recorder."""
    link = psycopg.connect(**_address(), autocommit=True)
    yield link
    link.close()


def lock_taken_by(link, bench_id):
    (taken,) = link.execute(
        "SELECT pg_try_advisory_lock(%s, %s)", [LOCK_CLASS, bench_id]
    ).fetchone()
    return taken


def test_a_bench_is_one_recorders(other, setup):
    database = BenchDatabase(PostgresStore(setup.bench_id), "this one")
    assert database.connect() is Hold.OURS
    assert not lock_taken_by(other, setup.bench_id)
    second = BenchDatabase(PostgresStore(setup.bench_id), "another")
    assert second.connect() is Hold.ANOTHERS
    database.leave()
    assert lock_taken_by(other, setup.bench_id)


@pytest.mark.parametrize("holder", ["this one", "one that died"])
def test_a_session_that_nobody_uses_any_more_holds_no_bench(other, setup, holder):
    """The server keeps it: of our own broken connection, or of a computer that was cut off."""
    assert lock_taken_by(other, setup.bench_id)
    RecorderSign.objects.create(
        bench_id=setup.bench_id, holder=holder, at=datetime.now(UTC) - timedelta(seconds=60)
    )
    database = BenchDatabase(PostgresStore(setup.bench_id), "this one")
    assert database.connect() is Hold.FREED
    wait_for(lambda: database.connect() is Hold.OURS, "the bench", 10)
    with pytest.raises(psycopg.OperationalError):
        other.execute("SELECT 1")
    database.leave()


def test_a_fresh_recorder_does_not_take_a_bench_whose_recorder_is_away_for_a_moment(setup):
    RecorderSign.objects.create(bench_id=setup.bench_id, holder="another", at=datetime.now(UTC))
    database = BenchDatabase(PostgresStore(setup.bench_id), "this one")
    assert database.connect() is Hold.ANOTHERS
    PostgresStore(setup.bench_id).leave_bench("another")
    assert database.connect() is Hold.OURS
    PostgresStore(setup.bench_id).unlock()


def _address():
    settings = connection.settings_dict
    names = {"host": "HOST", "port": "PORT", "dbname": "NAME", "user": "USER"}
    return {k: settings[v] for k, v in names.items()} | {"password": settings["PASSWORD"]}


@pytest.mark.parametrize(
    ("error", "passes"),
    [
        (psycopg.errors.DiskFull("no space left"), True),
        (psycopg.errors.AdminShutdown("terminating"), True),
        (psycopg.errors.LockNotAvailable("busy"), True),
        (psycopg.OperationalError("the connection is lost"), True),
        (psycopg.errors.CheckViolation("no"), False),
        (psycopg.errors.UndefinedTable("no"), False),
        (psycopg.errors.StringDataRightTruncation("no"), False),
    ],
)
def test_refusals_that_will_pass_are_told_from_those_that_will_not(error, passes):
    assert will_pass(error) is passes
    wrapped = OperationalError("as Django says it")
    wrapped.__cause__ = error
    assert will_pass(wrapped) is passes
