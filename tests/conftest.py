"""Fixtures shared by server and browser tests."""

from collections.abc import Callable

import pytest
from django.db import connection
from django.test import Client


@pytest.fixture
def setup(db):
    """The demo's setup: four channels wired on two amplifiers, nothing zeroed, no run."""
    from yoke_server.config import demo

    return demo.load_coupons()


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
