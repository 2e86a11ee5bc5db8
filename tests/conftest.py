"""Fixtures shared by server and browser tests."""

from collections.abc import Callable

import pytest
from django.db import connection
from django.test import Client, TransactionTestCase
from hypothesis import settings as hypothesis_settings

from tests import copied
from tests.faults import rows_of, table_of, told

__all__ = ["told"]

# No test is about how long it takes: a busy computer takes its time.
hypothesis_settings.register_profile("untimed", deadline=None)
hypothesis_settings.load_profile("untimed")


@pytest.fixture(scope="session", autouse=True)
def quick_emptying():
    """After a test with real transactions the tables are emptied, not truncated."""
    told = TransactionTestCase._fixture_teardown
    TransactionTestCase._fixture_teardown = lambda case: copied.empty()
    yield
    TransactionTestCase._fixture_teardown = told


@pytest.fixture
def setup(db):
    """The demo's setup: four channels wired on two amplifiers, nothing zeroed, no run."""
    return copied.coupons()


@pytest.fixture
def as_role(setup) -> Callable[[str], Client]:
    """A signed-in client of a role."""
    from yoke_server.accounts.models import User

    def sign_in(role: str) -> Client:
        client = Client()
        client.force_login(User.objects.get(username=role))
        return client

    return sign_in


@pytest.fixture
def database(transactional_db) -> str:
    """The name of the test database, for the processes that a test starts on it."""
    return str(connection.settings_dict["NAME"])


@pytest.fixture
def engineer(setup):
    from yoke_server.accounts.actor import Actor
    from yoke_server.accounts.models import User

    return Actor(User.objects.get(username="engineer"), "test")


@pytest.fixture
def gauges(setup):
    """Sixteen gauges of one lot, lot 0818-01 and on, in the library."""
    from yoke_server.kinds.inputs.bridge.sensors import GaugeSensor
    from yoke_server.sensors.models import Sensor

    Sensor.objects.bulk_create(
        Sensor(
            kind="strain gauge",
            name=f"Gauge {n}",
            serial=f"lot 0818-{n:02}",
            quantity="strain",
            spec=GaugeSensor(gauge_factor=2.08),
        )
        for n in range(1, 17)
    )


def pytest_terminal_summary(terminalreporter):
    """What each injected fault cost."""
    if rows := list(rows_of(terminalreporter.stats.get("passed", []))):
        terminalreporter.section("faults")
        for line in table_of(rows):
            terminalreporter.write_line(line)
