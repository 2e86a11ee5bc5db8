"""Waiting for the database and for other threads at once."""

import threading
import time

import psycopg
import pytest
from django.db import connection
from yoke_server.common.db.statement import run
from yoke_server.record.recorder.storage.postgres.wakeup import WakeupEvent

LONG = 20.0  # s that no test waits


@pytest.fixture
def link(db):
    connection.ensure_connection()
    with psycopg.connect(**connection.get_connection_params(), autocommit=True) as found:
        found.execute("LISTEN bell_test")
        yield found


def later(action):
    threading.Timer(0.05, action).start()


def test_whichever_comes_first_ends_the_wait(link):
    bell, begun = WakeupEvent(), time.monotonic()
    bell.ring()
    assert bell.wait(link, LONG) == []  # it was rung before anybody waited
    later(bell.ring)
    assert bell.wait(link, LONG) == []
    with psycopg.connect(link.info.dsn, password=link.info.password, autocommit=True) as other:
        later(lambda: other.execute("NOTIFY bell_test, 'hello'"))
        (notice,) = bell.wait(link, LONG)
    assert notice.payload == "hello"
    assert time.monotonic() - begun < LONG
    assert bell.wait(link, 0.01) == []


def test_what_came_with_an_answer_is_not_waited_for(link):
    link.execute("NOTIFY bell_test, 'mine'")
    link.execute("SELECT 1")
    assert [n.payload for n in WakeupEvent().wait(link, LONG)] == ["mine"]


@pytest.mark.django_db(transaction=True)
def test_what_came_with_the_answer_of_a_bare_statement_is_not_lost(link):
    connection.ensure_connection()
    ours = connection.connection
    ours.execute("LISTEN bell_test")
    try:
        later(lambda: link.execute("NOTIFY bell_test, 'meanwhile'"))
        run("SELECT pg_sleep(0.3)")
        assert [n.payload for n in WakeupEvent().wait(ours, LONG)] == ["meanwhile"]
    finally:
        ours.execute("UNLISTEN bell_test")


def test_a_broken_link_is_an_error(link):
    bell = WakeupEvent()
    with psycopg.connect(link.info.dsn, password=link.info.password, autocommit=True) as other:
        later(lambda: other.execute("SELECT pg_terminate_backend(%s)", [link.info.backend_pid]))
        assert bell.wait(link, LONG) == []  # its farewell
        with pytest.raises(psycopg.OperationalError):
            bell.wait(link, LONG)


def test_another_link_is_listened_to_when_the_first_broke(link):
    bell = WakeupEvent()
    with psycopg.connect(link.info.dsn, password=link.info.password, autocommit=True) as other:
        other.execute("LISTEN bell_test")
        assert bell.wait(link, 0.01) == bell.wait(other, 0.01) == []
        link.execute("NOTIFY bell_test, 'again'")
        assert [n.payload for n in bell.wait(other, LONG)] == ["again"]
