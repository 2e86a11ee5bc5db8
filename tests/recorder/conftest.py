"""A bench on a virtual clock, with its recorder linked and idle."""

import pytest

from tests.simulation.stage import Stage

CHANNELS = ["0f3a1b7c21d9", "0f3a3b7c21d9"]  # F on A1, SG1 on A2


@pytest.fixture
def stage():
    made = Stage()
    made.run(3)
    return made


def state_of(stage, key):
    return stage.orders[key].state
