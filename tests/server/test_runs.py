"""RunStarter a run in the database: whole or not at all, once, and only by a living order."""

from datetime import UTC, datetime, timedelta

import psycopg
import pytest
from django.db import IntegrityError, OperationalError, connection
from yoke_server.bench.models import Order, OrderState
from yoke_server.record.models import Run, Stream, StreamChannel
from yoke_server.record.recorder.model.events import Began, NotBegun
from yoke_server.record.recorder.storage import runs
from yoke_server.record.recorder.storage.bench_database import BenchDatabase
from yoke_server.record.recorder.storage.runs import Plan, begin_run
from yoke_server.record.store import will_pass
from yoke_server.wire.freezing import freeze


@pytest.fixture
def order(setup):
    expires = datetime.now(UTC) + timedelta(seconds=8)
    state = OrderState.CLAIMED
    return Order.objects.create(bench=setup.bench, kind="start", expires_at=expires, state=state)


@pytest.fixture
def plan(setup, order):
    frozen = freeze(setup)
    revision = setup.revisions.get(number=setup.version)
    labels = ("A1", "A2")
    channels = {label: frozen.of_device(label) for label in labels}
    return Plan(str(order.pk), revision.pk, None, 5, {"A1": 1000.0, "A2": 500.0}, channels)


def test_a_run_begins_with_its_streams_and_the_orders_answer(plan, order):
    began = begin_run(plan)
    assert isinstance(began, Began)
    run = Run.objects.get(pk=began.run_id)
    assert (run.name, run.number, run.state) == ("C1 run 1", 1, "recording")
    assert set(began.streams) == {"A1", "A2"}
    keys = StreamChannel.objects.filter(stream=began.streams["A1"]).values_list("channel_key")
    assert [k for (k,) in keys] == [c.key for c in plan.channels["A1"]]
    order.refresh_from_db()
    assert (order.state, order.answer) == (OrderState.DONE, {"run": run.pk})


def test_asked_again_after_a_lost_answer_it_is_the_same_run(plan):
    first = begin_run(plan)
    plan.cancelled = "Emergency stop."  # called off meanwhile: it must be closed, not forgotten
    assert begin_run(plan) == first
    assert Run.objects.count() == 1


def test_an_error_between_two_rows_leaves_nothing(plan, order, monkeypatch):
    make, made = runs.add_stream, []

    def fail_at_the_second(*arguments):
        if made:
            raise IntegrityError("no room for another stream")
        made.append(make(*arguments))

    monkeypatch.setattr(runs, "add_stream", fail_at_the_second)
    answer = begin_run(plan)
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
def test_an_order_that_does_not_live_begins_nothing(plan, order, change):
    Order.objects.filter(pk=order.pk).update(**change)
    assert isinstance(begin_run(plan), NotBegun)
    assert Run.objects.count() == 0


def test_a_start_that_was_called_off_begins_nothing(plan):
    plan.cancelled = "Emergency stop."
    assert begin_run(plan) == NotBegun(plan.order_key, "Emergency stop.")
    assert Run.objects.count() == 0


@pytest.mark.django_db(transaction=True)
def test_a_bench_is_one_recorders(setup):
    database = BenchDatabase(setup.bench_id)
    other = psycopg.connect(**_address(), autocommit=True)
    try:
        assert database.connect()
        held = other.execute(
            "SELECT pg_try_advisory_lock(classid::int, objid::int) FROM pg_locks "
            "WHERE locktype = 'advisory' AND database = "
            "(SELECT oid FROM pg_database WHERE datname = current_database())"
        ).fetchone()
        assert held == (False,)
    finally:
        database.leave()
        other.close()


def test_a_fresh_recorder_does_not_take_a_bench_whose_recorder_is_away_for_a_moment(setup):
    setup.bench.state_at, setup.bench.state = datetime.now(UTC), {"phase": "recording"}
    setup.bench.save()
    assert not BenchDatabase(setup.bench_id).connect()
    setup.bench.state = {"phase": "idle", "left": True}
    setup.bench.save()
    database = BenchDatabase(setup.bench_id)
    assert database.connect()
    database._release()


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
