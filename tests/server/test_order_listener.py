"""The order listener on PostgreSQL: orders are heard once, whatever breaks meanwhile."""

from datetime import UTC, datetime, timedelta

import pytest
from django.db import connection, transaction
from yoke_server.bench.models import Order, OrderState
from yoke_server.record.recorder.model.clock import SystemClock
from yoke_server.record.recorder.model.events import OrderIn, SetupLoaded
from yoke_server.record.recorder.orders import listener as listening
from yoke_server.record.recorder.orders.listener import OrderListener, give_back_claimed
from yoke_server.wire.models import SetupRevision

from tests.processes import wait_for
from tests.recorded import begin, stream_of
from tests.server.lab import cut_connections

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def heard():
    return []


@pytest.fixture
def listener(setup, heard):
    made = OrderListener(setup.bench_id, SystemClock(), heard.append)
    made.start()
    yield made
    made.finish()


def give(setup, kind, arguments=None, state=OrderState.WAITING):
    expires = datetime.now(UTC) + timedelta(seconds=8)
    return Order.objects.create(
        bench=setup.bench, kind=kind, expires_at=expires, arguments=arguments or {}, state=state
    )


def orders(heard):
    return [e.kind for e in heard if isinstance(e, OrderIn)]


def wait_for_setup(heard):
    wait_for(lambda: any(isinstance(e, SetupLoaded) for e in heard), "the first setup")


def test_orders_are_claimed_once_and_answered_while_claimed(setup):
    of_the_dead = give(setup, "start", state=OrderState.CLAIMED)
    waiting = give(setup, "measure", {"channels": []})
    heard = []
    two = [OrderListener(setup.bench_id, SystemClock(), heard.append) for _ in range(2)]
    for listener in two:
        listener.start()
    try:
        wait_for(lambda: orders(heard), "the order")
        two[0].answer(str(waiting.pk), OrderState.DONE, {"fine": True})
        waiting_row = Order.objects.filter(pk=waiting.pk, state=OrderState.DONE)
        wait_for(waiting_row.exists, "the answer")
        two[1].answer(str(waiting.pk), OrderState.REFUSED, {"title": "too late"})
    finally:
        for listener in two:
            listener.finish()
    assert orders(heard) == ["measure"]
    waiting.refresh_from_db()
    assert (waiting.state, waiting.answer) == (OrderState.DONE, {"fine": True})
    of_the_dead.refresh_from_db()  # claimed by a recorder that is no more
    assert (of_the_dead.state, of_the_dead.answer["title"]) == (
        OrderState.REFUSED, "The recorder was started anew."
    )  # fmt: skip


def test_only_claimed_orders_of_the_bench_are_given_back(setup):
    claimed = give(setup, "start", state=OrderState.CLAIMED)
    done = give(setup, "stop", state=OrderState.DONE)
    give_back_claimed(setup.bench_id + 1)
    claimed.refresh_from_db()
    assert claimed.state == OrderState.CLAIMED
    give_back_claimed(setup.bench_id)
    claimed.refresh_from_db()
    done.refresh_from_db()
    assert (claimed.state, done.state) == (OrderState.REFUSED, OrderState.DONE)


def test_an_order_is_heard_after_the_setup_that_was_put_on_the_bench_before(setup, listener, heard):
    wait_for_setup(heard)
    setup.bench.active_setup = None  # as if its news were not heard yet
    setup.bench.save()
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
        give(setup, "emergency")
    wait_for(lambda: orders(heard) == ["emergency"], "the emergency stop", 20)
    refused = Order.objects.filter(pk=start.pk, state=OrderState.REFUSED)
    wait_for(refused.exists, "the refusal", 20)
    assert refused.get().answer["title"] == "The recorder cannot read the order."


def test_a_link_that_breaks_between_two_orders_keeps_no_stop_back(
    setup, listener, heard, monkeypatch
):
    def cut(document):
        with connection.cursor() as cursor:  # the order listener's own
            cursor.execute("SELECT pg_terminate_backend(pg_backend_pid())")

    wait_for_setup(heard)
    monkeypatch.setattr(listening, "read_document", cut)
    with transaction.atomic():
        start = give(setup, "start", {"revision": setup.revisions.first().pk})
        give(setup, "emergency")
    wait_for(lambda: orders(heard) == ["emergency"], "the emergency stop", 20)
    refused = Order.objects.filter(pk=start.pk, state=OrderState.REFUSED)
    wait_for(refused.exists, "the refusal", 20)


def test_stops_whose_claim_was_committed_and_not_answered_are_heard_once(setup, listener, heard):
    """As if the link broke just then: no other order is begun with so late."""
    wait_for_setup(heard)
    give(setup, "emergency", state=OrderState.CLAIMED)
    give(setup, "start", state=OrderState.CLAIMED)
    for _ in range(2):
        wait_for(cut_connections, "the order listener's link to cut")
        wait_for(lambda: orders(heard), "the emergency stop", 20)
    give(setup, "measure")
    wait_for(lambda: "measure" in orders(heard), "the next order")
    assert orders(heard) == ["emergency", "measure"]


@pytest.mark.parametrize("part", ["freeze", "resume_stream", "read_document"])
def test_a_setup_or_a_run_that_cannot_be_read_keeps_no_stop_back(setup, heard, monkeypatch, part):
    def cannot(*args):
        raise ValueError("a document of a later version")

    stream_of(begin(setup))
    monkeypatch.setattr(listening, part, cannot)
    listener = OrderListener(setup.bench_id, SystemClock(), heard.append)
    listener.start()
    try:
        give(setup, "emergency")
        wait_for(lambda: orders(heard) == ["emergency"], "the emergency stop", 20)
    finally:
        listener.finish()
