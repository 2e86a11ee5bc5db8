"""A whole application on the test database, and browsers that look at it."""

import os

import pytest

from tests import processes
from tests.browser.chromium import Watched, chromium

SPEED = 4.0


@pytest.fixture(scope="package")
def browser():
    # Playwright's sync API runs an event loop in this thread, which Django's ORM would refuse.
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"
    with chromium() as found:
        yield found
    del os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"]


@pytest.fixture
def application(browser, database, setup):
    """Rig, recorder, worker and web on the demo's setup; gives the web's address."""
    port = setup.bench.amplifiers.get().port
    with (
        processes.rig(port, SPEED),
        processes.recorder(database),
        processes.worker(database),
        processes.web(database) as address,
    ):
        processes.wait_for(
            lambda: setup.bench.amplifiers.filter(link="linked").exists(), "the link"
        )
        yield address


@pytest.fixture
def open_browser(browser, application):
    """Sign in as somebody in a browser of their own; faults it noted fail the test."""
    opened: list[Watched] = []

    def sign_in(name, theme="light"):
        watched = Watched(browser, theme)
        opened.append(watched)
        return watched.sign_in(application, name)

    yield sign_in
    for watched in opened:
        watched.context.close()
    assert [fault for watched in opened for fault in watched.faults] == []
