import pytest
from yoke_server.bench.services import save_stand_ins

from tests import processes
from tests.server.lab import SPEED, linked, recorder_here


@pytest.fixture(autouse=True)
def quick_passwords(settings):
    """Real hashing costs a quarter of a second a person."""
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]


@pytest.fixture(scope="module")
def shared_rig():
    with processes.rig(SPEED) as found:
        yield found


@pytest.fixture
def rig(shared_rig, setup):
    """The module's rig as if just switched on; the bench's devices are there."""
    shared_rig.tell("A1", "TEST:RESet 7")
    save_stand_ins(shared_rig.ports)
    return shared_rig


@pytest.fixture
def lab(database, setup, rig):
    """A running rig and recorder."""
    with recorder_here():
        linked(setup)
        yield


@pytest.fixture
def driving(setup, as_role):
    """A signed-in client of a role, which has the yoke of the bench."""

    def take(role):
        client = as_role(role)
        client.post(f"/api/benches/{setup.bench_id}/yoke", content_type="application/json")
        return client

    return take
