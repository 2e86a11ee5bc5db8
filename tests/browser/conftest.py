"""A whole application on the test database, and browsers that look at it."""

import os
from contextlib import ExitStack
from pathlib import Path

import pytest
from yoke_server.bench.services import save_stand_ins

from tests import processes
from tests.browser.chromium import Watched, chromium
from tests.server.lab import recorder_here

SPEED = 2.0
FOLDER = Path(__file__).parent


@pytest.hookimpl(tryfirst=True)  # before the groups are made
def pytest_collection_modifyitems(items):
    """All in one worker: one browser, one application at a time, one bench on the network."""
    for item in items:
        if FOLDER in item.path.parents:
            item.add_marker(pytest.mark.xdist_group("network"))


def pytest_collection_finish(session):
    """Were groups forgotten, two browsers and two benches would be in each other's way unseen."""
    ours = [item for item in session.items if FOLDER in item.path.parents]
    grouped = getattr(session.config.option, "loadgroup", False)
    if grouped and not all(item.nodeid.endswith("@network") for item in ours):
        raise pytest.UsageError("This pytest and this pytest-xdist keep no groups together.")


@pytest.fixture(scope="package")
def browser():
    # Playwright's sync API runs an event loop in this thread, which Django's ORM would refuse.
    os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"
    with chromium() as found:
        yield found
    del os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"]


@pytest.fixture
def rig():
    with processes.rig(SPEED, 7, "shed", "--discoverable") as found:
        yield found


@pytest.fixture
def application(browser, database, setup, rig):
    """Recorder, worker and web on the demo's setup; gives the web's address."""
    with ExitStack() as stack:
        save_stand_ins(rig.ports)
        stack.enter_context(recorder_here(SPEED))
        stack.enter_context(processes.worker(database))
        address = stack.enter_context(processes.web(database))
        away = setup.bench.devices.exclude(link="linked")
        processes.wait_for(lambda: not away.exists(), "the links", 60)
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
