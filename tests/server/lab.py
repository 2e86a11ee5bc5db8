"""A recorder against the real rig, for tests of the server."""

import os
import threading
from contextlib import contextmanager

import psycopg
from django.db import connection
from yoke_server.record.recorder.model.clock import SystemClock
from yoke_server.record.recorder.process import Recorder

from tests import processes
from tests.processes import wait_for

SPEED = 2.5  # a stall counts so many times, and what waits for samples stops the actuator


def recorder(database, *arguments, speed=SPEED):
    return processes.recorder(database, *arguments, speed=speed)


@contextmanager
def recorder_here(speed=SPEED):
    """In this process, for tests that neither kill it nor mind as whom it speaks: ready at once."""
    one = Recorder(clock=SystemClock(speed))
    thread = threading.Thread(target=one.run)
    thread.start()
    try:
        yield
    finally:
        one.stop()
        thread.join()


def linked(setup):
    wait_for(lambda: not setup.bench.devices.exclude(link="linked").exists(), "the links", 60)
    wait_for(lambda: bench_state(setup).get("home"), "the actuator at home")


def bench_state(setup):
    setup.bench.refresh_from_db()
    return setup.bench.state


def superuser(**options):
    """A connection as superuser to the test's database."""
    name = connection.settings_dict["NAME"]
    return psycopg.connect(os.environ["YOKE_SUPERUSER_URL"], dbname=name, **options)


def cut_connections():
    """All others of this application to the database; their number. Not those that no role of the
    application may end: the superuser's, and an autovacuum's, which comes when it likes."""
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
            "WHERE datname = current_database() AND pid <> pg_backend_pid() "
            "AND usename IN (SELECT rolname FROM pg_roles WHERE NOT rolsuper)"
        )
        return len(cursor.fetchall())
