"""Orders, stops and signs of life on PostgreSQL: each is heard once, whatever breaks meanwhile."""

import json
from datetime import UTC, datetime, timedelta

import psycopg
import pytest
from django.db import Error, connection, transaction
from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import User
from yoke_server.bench.models import Order, OrderState, RecorderSign, StopRequest
from yoke_server.bench.services import send
from yoke_server.bench.stops import STOPS, StopRequested, request_emergency_stop
from yoke_server.common.clock import arrived_at
from yoke_server.kinds.orders.measuring import MeasureAtRest
from yoke_server.ledger.models import Entry
from yoke_server.record.models import Run
from yoke_server.record.recorder.model.clock import SystemClock
from yoke_server.record.recorder.model.events import BenchLocked, NoOpenRun, OrderIn, SetupLoaded
from yoke_server.record.recorder.orders.life_sign import LifeSign
from yoke_server.record.recorder.orders.listener import OrderListener
from yoke_server.record.recorder.orders.part_thread import PartThread
from yoke_server.record.recorder.orders.stop_listener import StopListener
from yoke_server.record.recorder.storage.postgres import orders as postgres_orders
from yoke_server.record.recorder.storage.postgres.orders import PostgresOrders
from yoke_server.record.recorder.storage.postgres.samples import PostgresStore
from yoke_server.record.recorder.storage.postgres.stops import PostgresSigns, PostgresStops
from yoke_server.setups.models import SetupRevision

from tests.processes import wait_for
from tests.recorded import begin, stream_of
from tests.server.lab import cut_connections, superuser

pytestmark = pytest.mark.django_db(transaction=True)
HOLDER = "a test"
ARGUMENTS = {"measure": {"channels": []}}  # that an order needs, by kind


@pytest.fixture
def heard():
    return []


@pytest.fixture
def held(setup):
    PostgresStore(setup.bench_id).take_bench(HOLDER)


def listening(setup, heard, holder=HOLDER):
    session = PostgresOrders(setup.bench_id)
    one = OrderListener(session, holder, setup.bench_id, SystemClock(), heard.append)
    one.thread = PartThread("orders", one)
    one.thread.start()
    return one


@pytest.fixture
def listener(setup, held, heard):
    made = listening(setup, heard)
    yield made
    made.thread.finish()


def give(setup, kind, arguments=None, state=OrderState.WAITING):
    now = datetime.now(UTC)
    return Order.objects.create(
        bench=setup.bench,
        kind=kind,
        requested_at=now,
        expires_at=now + timedelta(seconds=8),
        arguments=arguments or ARGUMENTS.get(kind, {}),
        state=state,
    )


def orders(heard):
    return [e.order.kind for e in heard if isinstance(e, OrderIn)]


def wait_for_setup(heard):
    wait_for(lambda: any(isinstance(e, SetupLoaded) for e in heard), "the first setup")


def test_orders_are_claimed_once_and_answered_while_claimed(setup, held, heard):
    of_the_dead = give(setup, "start", state=OrderState.CLAIMED)
    two = [listening(setup, heard) for _ in range(2)]
    wait_for_setup(heard)
    waiting = give(setup, "measure")
    try:
        wait_for(lambda: orders(heard), "the order")
        two[0].answer(str(waiting.pk), OrderState.DONE, {"fine": True})
        waiting_row = Order.objects.filter(pk=waiting.pk, state=OrderState.DONE)
        wait_for(waiting_row.exists, "the answer")
        two[1].answer(str(waiting.pk), OrderState.REFUSED, {"title": "too late"})
    finally:
        for one in two:
            one.thread.finish()
    assert orders(heard) == ["measure"]
    waiting.refresh_from_db()
    assert (waiting.state, waiting.answer) == (OrderState.DONE, {"fine": True})
    of_the_dead.refresh_from_db()  # claimed by a recorder that is no more
    assert (of_the_dead.state, of_the_dead.answer["title"]) == (
        OrderState.REFUSED,
        "The recorder restarted.",
    )


def test_only_claimed_orders_of_the_bench_are_given_back(setup):
    claimed = give(setup, "start", state=OrderState.CLAIMED)
    done = give(setup, "measure", state=OrderState.DONE)
    PostgresOrders(setup.bench_id + 1).give_back_claimed()
    claimed.refresh_from_db()
    assert claimed.state == OrderState.CLAIMED
    PostgresOrders(setup.bench_id).give_back_claimed()
    claimed.refresh_from_db()
    done.refresh_from_db()
    assert (claimed.state, done.state) == (OrderState.REFUSED, OrderState.DONE)


def test_who_no_longer_serves_the_bench_claims_nothing(setup, held):
    order = give(setup, "measure")
    assert PostgresOrders(setup.bench_id).claim_orders("another") == []
    order.refresh_from_db()
    assert order.state == OrderState.WAITING
    (found,) = PostgresOrders(setup.bench_id).claim_orders(HOLDER)
    assert (found.key, found.kind) == (str(order.pk), "measure")
    assert found.left_s == pytest.approx(8, abs=1)


def test_a_row_that_somebody_has_locked_keeps_no_other_order_back(setup, held):
    locked, free = give(setup, "measure"), give(setup, "shunt")
    with superuser() as link:
        link.execute("SELECT 1 FROM bench_order WHERE key = %s FOR UPDATE", [locked.pk])
        (found,) = PostgresOrders(setup.bench_id).claim_orders(HOLDER)
        assert found.key == str(free.pk)
        link.rollback()
    (found,) = PostgresOrders(setup.bench_id).claim_orders(HOLDER)
    assert found.key == str(locked.pk)


def test_an_order_was_requested_when_its_request_came_in(setup):
    """However long it then waited for a turn, a connection or somebody's lock."""
    import time

    actor = Actor(User.objects.get(username="technician"), "test")
    before = datetime.now(UTC)
    token = arrived_at.set(time.monotonic() - 3.0)
    try:
        order = send(actor, setup.bench, MeasureAtRest(channels=[]))
    finally:
        arrived_at.reset(token)
    order.refresh_from_db()
    assert (before - order.requested_at).total_seconds() == pytest.approx(3.0, abs=0.5)
    life = (order.expires_at - order.requested_at).total_seconds()
    assert life == pytest.approx(8.0, abs=0.1)
    assert order.given_up_at == 0.0 or order.given_up_at - time.monotonic() < 5.5


def test_an_order_is_heard_after_the_setup_that_was_put_on_the_bench_before(setup, listener, heard):
    wait_for_setup(heard)
    setup.on_bench = None  # as if its news were not heard yet
    setup.save()
    give(setup, "measure")
    wait_for(lambda: orders(heard), "the order")
    before = heard[: next(i for i, e in enumerate(heard) if isinstance(e, OrderIn))]
    assert [e for e in before if isinstance(e, SetupLoaded)][-1].setup is None


@pytest.mark.parametrize("damaged", ["a word for a number", "no object", "a document of nobody's"])
def test_an_order_that_cannot_be_read_is_refused_and_the_next_is_heard(
    setup, listener, heard, damaged
):
    wait_for_setup(heard)
    revision = setup.revisions.first()
    if damaged == "a document of nobody's":
        SetupRevision.objects.filter(pk=revision.pk).update(document={"schema_version": 2})
    arguments = {"a word for a number": {"revision": "x"}, "no object": [7]}
    with transaction.atomic():  # claimed together
        start = give(setup, "start", arguments.get(damaged, {"revision": revision.pk}))
        give(setup, "measure")
    wait_for(lambda: orders(heard) == ["measure"], "the next order", 20)
    refused = Order.objects.filter(pk=start.pk, state=OrderState.REFUSED)
    wait_for(refused.exists, "the refusal", 20)
    assert refused.get().answer["title"] == "The recorder cannot read the order."


def test_an_order_whose_link_broke_as_it_was_claimed_is_given_up_not_begun_late(
    setup, listener, heard, monkeypatch
):
    def cut(document):
        with connection.cursor() as cursor:  # the order listener's own
            cursor.execute("SELECT pg_terminate_backend(pg_backend_pid())")

    wait_for_setup(heard)
    monkeypatch.setattr(postgres_orders, "read_document", cut)
    start = give(setup, "start", {"revision": setup.revisions.first().pk})
    refused = Order.objects.filter(pk=start.pk, state=OrderState.REFUSED)
    wait_for(refused.exists, "the refusal", 20)
    give(setup, "measure")
    wait_for(lambda: orders(heard) == ["measure"], "the next order", 20)


@pytest.mark.parametrize("part", ["freeze", "read_document"])
def test_a_setup_or_a_run_that_cannot_be_read_leaves_the_bench_working(
    setup, held, heard, monkeypatch, part
):
    def cannot(*args):
        raise ValueError("a document of a later version")

    run = begin(setup)
    stream_of(run)
    monkeypatch.setattr(postgres_orders, part, cannot)
    one = listening(setup, heard)
    try:
        give(setup, "measure")
        wait_for(lambda: orders(heard) == ["measure"], "the order", 20)
    finally:
        one.thread.finish()
    if part == "read_document":  # the run's
        assert any(isinstance(e, NoOpenRun) for e in heard)
        run = Run.objects.get(pk=run.pk)
        assert (run.state, bool(run.seal)) == ("interrupted", True)
        assert "cannot be read" in run.ended_because


def test_of_a_device_only_the_newest_facts_are_written(setup, held, heard):
    """While the database is away they pile up: an answer does not wait behind them."""
    session = PostgresOrders(setup.bench_id)
    one = OrderListener(session, HOLDER, setup.bench_id, SystemClock(), heard.append)
    for number in range(1000):
        one.note("A1", drift_ppm=float(number))
        one.note("A2", link_note=f"note {number}")
    order = give(setup, "measure", state=OrderState.CLAIMED)
    written = []
    session.note_device = lambda label, facts: written.append((label, facts))
    session.answer_order = lambda key, state, answer: written.append(key)
    one.answer(str(order.pk), OrderState.DONE, {})
    one.leave()
    assert written[0] == str(order.pk)
    assert sorted(written[1:]) == [("A1", {"drift_ppm": 999.0}), ("A2", {"link_note": "note 999"})]


# Stops


@pytest.fixture
def stops(setup):
    """What the bench's stop listener hears, and knows as latched."""
    found = Stops(setup.bench_id)
    yield found
    found.thread.finish()


class Stops:
    def __init__(self, bench_id):
        self.heard, self.latched = [], []
        self.listener = StopListener(
            PostgresStops(bench_id), SystemClock(), self.heard.append, self.latched.append
        )
        self.thread = PartThread("stops", self.listener)
        self.thread.start()
        assert self.listener.listening.wait(10)

    def heard_keys(self):
        return [s.key for s in self.heard]


def an_emergency(setup, username="reviewer"):
    actor = Actor(User.objects.get(username=username), "test")
    return request_emergency_stop(actor, setup.bench_id).stop


def test_a_stop_is_heard_at_once_and_written_down_with_its_entry(setup, stops):
    stop = an_emergency(setup)
    wait_for(lambda: stops.heard_keys() == [stop.key], "the stop", 2)
    row = StopRequest.objects.get(pk=stop.key)
    assert (row.emergency, row.confirmed) == (True, False)
    assert stops.heard[0].requested_at == row.requested_at
    assert "Emergency stop" in Entry.objects.latest("id").action


@pytest.mark.parametrize("fault", ["read only", "locked", "no such table"])
def test_a_stop_is_heard_where_nothing_can_be_written(setup, stops, fault):
    with superuser(autocommit=True) as link:
        name = connection.settings_dict["NAME"]
        if fault == "read only":
            link.execute(f'ALTER DATABASE "{name}" SET default_transaction_read_only = on')
            connection.close()
        elif fault == "locked":
            link.execute("BEGIN")
            link.execute("LOCK TABLE bench_stoprequest IN ACCESS EXCLUSIVE MODE")
        else:
            link.execute("ALTER TABLE bench_stoprequest RENAME TO hidden")
        try:
            stop = an_emergency(setup)
            wait_for(lambda: stops.heard_keys() == [stop.key], "the stop", 3)
        finally:
            if fault == "read only":
                link.execute(f'ALTER DATABASE "{name}" RESET default_transaction_read_only')
                connection.close()
            elif fault == "locked":
                link.execute("ROLLBACK")
            else:
                link.execute("ALTER TABLE hidden RENAME TO bench_stoprequest")
    assert not StopRequest.objects.exists()
    PostgresSigns(setup.bench_id).keep_stop(stop, "")
    assert StopRequest.objects.get().confirmed


def test_stops_of_before_are_known_before_anything_else(setup):
    carried_out, waiting, released = (an_emergency(setup) for _ in range(3))
    StopRequest.objects.filter(pk=carried_out.key).update(confirmed=True)
    StopRequest.objects.filter(pk=released.key).update(
        confirmed=True, released_at=datetime.now(UTC)
    )
    found = Stops(setup.bench_id)
    try:
        assert found.heard_keys() == [waiting.key]
        assert [s.key for s in found.latched] == [carried_out.key]
    finally:
        found.thread.finish()


def test_a_stop_that_was_given_while_the_link_was_cut_is_heard_once(setup, stops):
    for _ in range(2):
        wait_for(cut_connections, "the link to cut")
        stop = an_emergency(setup)
        wait_for(lambda key=stop.key: key in stops.heard_keys(), "the stop", 20)
    assert len(set(stops.heard_keys())) == len(stops.heard_keys()) == 2


def test_a_stop_of_another_bench_is_not_heard(setup, stops):
    with connection.cursor() as cursor:
        other = {"bench": setup.bench_id + 1, "key": "k", "emergency": True}
        other["requested_at"] = datetime.now(UTC).isoformat()
        cursor.execute("SELECT pg_notify(%s, %s)", [STOPS, json.dumps(other)])
    stop = an_emergency(setup)
    wait_for(stops.heard_keys, "the stop")
    assert stops.heard_keys() == [stop.key]


def test_a_release_releases_what_was_given_before_it_and_answers_its_order(setup, held):
    first = an_emergency(setup)
    order = give(setup, "release", state=OrderState.CLAIMED)
    second = an_emergency(setup)
    PostgresOrders(setup.bench_id).release_stops(str(order.pk))
    released = StopRequest.objects.exclude(released_at=None)
    assert [str(row.pk) for row in released] == [first.key]
    order.refresh_from_db()
    assert order.state == OrderState.DONE
    assert StopRequest.objects.get(pk=second.key).released_at is None


# The sign of life


@pytest.fixture
def sign(setup, held, heard):
    made = LifeSign(PostgresSigns(setup.bench_id), HOLDER, SystemClock(), heard.append)
    made.thread = PartThread("life sign", made)
    made.thread.start()
    yield made
    made.thread.finish()


def test_the_sign_says_when_the_database_was_last_written(setup, sign):
    before = sign.written_at
    wait_for(lambda: sign.written_at > before, "the sign", 10)
    with superuser(autocommit=True) as link:
        link.execute("BEGIN")
        link.execute("LOCK TABLE bench_recordersign IN ACCESS EXCLUSIVE MODE")
        stuck = sign.written_at
        import time

        time.sleep(4.5)  # a write that waits is given up after three seconds
        assert sign.written_at <= stuck + 1.2
        link.execute("ROLLBACK")
    wait_for(lambda: sign.written_at > stuck + 3, "the sign again", 10)


def test_who_finds_another_holder_has_lost_the_bench(setup, sign, heard):
    RecorderSign.objects.filter(pk=setup.bench_id).update(holder="another")
    wait_for(lambda: any(isinstance(e, BenchLocked) for e in heard), "the loss", 10)
    assert RecorderSign.objects.get(pk=setup.bench_id).holder == "another"


def test_a_stop_that_was_carried_out_is_written_down_by_the_recorder_once(setup, sign):
    stop = StopRequested(
        "00000000-0000-0000-0000-000000000007",
        True,
        datetime.now(UTC),
        "Reviewer",
        "Emergency stop",
    )
    for _ in range(2):
        sign.keep_stop(stop, "")
        wait_for(lambda: not sign.has_unkept_stops, "the row", 5)
    assert StopRequest.objects.get(pk=stop.key).confirmed
    entries = Entry.objects.filter(action__contains="by Reviewer")
    assert entries.count() == 1


def test_a_session_speaks_only_as_long_as_it_is_open(setup):
    session = PostgresStops(setup.bench_id)
    session.open()
    with superuser(autocommit=True) as link:
        pid = connection.connection.info.backend_pid
        link.execute("SELECT pg_terminate_backend(%s, 30000)", [pid])  # back once it has ended
    with pytest.raises((psycopg.Error, Error)):
        session.wait(1.0)  # the end of the connection wakes it
    session.close()
