"""A bench on a virtual clock, with its recorder linked and idle."""

import pytest

from tests.simulation.sessions import data_of
from tests.simulation.stage import Stage
from tests.simulation.virtual import PER_BLOCK, RAIL

CHANNELS = ["0f3a1b7c21d9", "0f3a3b7c21d9"]  # F on A1, SG1 on A2


@pytest.fixture
def stage():
    made = Stage()
    made.run(3)
    return made


def state_of(stage, key):
    return stage.server.orders[key].state


def answer_of(stage, key):
    return stage.server.orders[key].answer


def the_run(stage):
    (run,) = stage.server.runs.values()
    return run


def stream_of(stage, label="A1"):
    return stage.server.streams[the_run(stage).streams[label, "everything"]]


def sequences_of(stream):
    """Which of the device's blocks are stored, from what their samples say."""
    places = data_of(stream)[-1].astype(float) * RAIL / 8e-3
    numbers = [round(place) for place in places]
    assert len(numbers) % PER_BLOCK == 0, "a block is stored in part"
    blocks = [numbers[i : i + PER_BLOCK] for i in range(0, len(numbers), PER_BLOCK)]
    assert all(b == list(range(b[0], b[0] + PER_BLOCK)) for b in blocks), "samples are mixed up"
    return [b[0] // PER_BLOCK for b in blocks]


def stored(stage, label="A1"):
    return sequences_of(stream_of(stage, label))


def is_whole(sequences):
    """Whether no block is missing between the first and the last."""
    return sequences == list(range(sequences[0], sequences[-1] + 1))
