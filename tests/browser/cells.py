"""The fork's bench with the load cells of the shed on it."""

import pytest
from yoke_server.demo.services import load_cells

from tests import processes
from tests.browser.conftest import SPEED


@pytest.fixture
def rig():
    with processes.rig(SPEED, 7, "fork", "--discoverable") as found:
        yield found


@pytest.fixture
def setup(db):
    return load_cells()
