"""Two thousand courses of events, an eighth of them in each test so that workers share them."""

import logging

import pytest

from tests.simulation.schedules import draw, failure, failures

SCHEDULES = 2000
PARTS = 8


@pytest.fixture(autouse=True)
def quiet():
    """Faults are the point here; their log lines would fill the memory of the test's report."""
    logging.disable(logging.CRITICAL)
    yield
    logging.disable(logging.NOTSET)


@pytest.mark.parametrize("part", range(PARTS))
def test_no_course_of_events_breaks_a_rule(part):
    for seed, why, schedule in failures(range(part, SCHEDULES, PARTS)):
        steps = "\n".join(f"    {deed}," for deed in schedule)
        pytest.fail(f"seed {seed}: {why}\n[\n{steps}\n]")


# Found by the search, shrunk, and mended; each must stay so.
FOUND = {
    "called off between a lost answer and its repetition": [
        (0.0, "lose answers", None), (0.25, "start", None), (0.5, "emergency", None),
        (0.5, "break", None),
    ],
    "last envelope rows written, then killed before the close": [
        (0.25, "start", None), (0.5, "start", None), (0.25, "crash", None), (0.5, "cut", "A2"),
        (0.25, "begin anew", None), (0.5, "database crash", None), (0.0, "cut", "A1"),
        (0.5, "stop", None), (0.5, "lose answers", None), (0.25, "crash", None),
    ],
    "a shunt whose switching off did not arrive": [
        (0.5, "measure", None), (0.25, "switch device off and on", "A2"), (1.0, "shunt", None),
        (2.0, "start", None), (0.25, "database away", None), (2.0, "cut", "A1"),
        (2.0, "force", 4000.0),
    ],
    "a server that crashed with rows which a fresh recorder had gone on from": [
        (1.0, "start", None), (2.0, "mend", "A1"), (0.25, "crash", None), (0.0, "begin anew", None),
        (0.0, "database crash", None),
    ],
    "samples refused for good while others were kept to be written again": [
        (2.0, "start", None), (0.5, "begin anew", None), (1.0, "refuse run", None),
    ],
}  # fmt: skip


@pytest.mark.parametrize("schedule", FOUND.values(), ids=list(FOUND))
def test_what_was_found_once_stays_mended(schedule):
    assert failure(schedule) == ""


def test_a_seed_always_draws_the_same():
    assert draw(7) == draw(7)
    assert draw(7) != draw(8)
