"""A recorder as a process against the real rig, for tests of the server."""

from tests import processes
from tests.processes import wait_for

SPEED = 8.0


def recorder(database, *arguments, speed=SPEED):
    return processes.recorder(database, *arguments, speed=speed)


def linked(setup):
    wait_for(lambda: not setup.bench.devices.exclude(link="linked").exists(), "the links", 60)
    wait_for(lambda: bench_state(setup).get("home"), "the actuator at home")


def bench_state(setup):
    setup.bench.refresh_from_db()
    return setup.bench.state
