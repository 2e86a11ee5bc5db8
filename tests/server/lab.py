"""A recorder against the real rig, for tests of the server."""

import threading
from contextlib import contextmanager

from yoke_server.record.recorder.clock import SystemClock
from yoke_server.record.recorder.process import Recorder

from tests import processes
from tests.processes import wait_for

SPEED = 8.0


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
