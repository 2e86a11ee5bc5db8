"""Two thousand courses of events, an eighth of them in each test so that workers share them."""

import logging

import pytest

from tests.simulation.coverage import Coverage
from tests.simulation.schedules import drawn, failure, failures

SCHEDULES = 2000
PARTS = 8
RECORDING = 0.45  # share of all virtual time


@pytest.fixture(autouse=True)
def quiet():
    """Faults are the point here; their log lines would fill the memory of the test's report."""
    logging.disable(logging.CRITICAL)
    yield
    logging.disable(logging.NOTSET)


@pytest.mark.parametrize("part", range(PARTS))
def test_no_course_of_events_breaks_a_rule(part):
    coverage = Coverage()
    for seed, why, schedule in failures(range(part, SCHEDULES, PARTS), coverage):
        steps = "\n".join(f"    {action}," for action in schedule)
        pytest.fail(f"seed {seed}: {why}\n[\n{steps}\n]")
    assert coverage.recording > RECORDING, "the search does not look where it matters"
    assert not coverage.unseen(["recording"])


def test_a_seed_always_draws_the_same_and_plays_again_as_it_was_drawn():
    first, again, other = drawn(7)[1], drawn(7)[1], drawn(8)[1]
    assert first.course == again.course != other.course
    assert failure(first.course, seed=7) == ""
    assert first.stage.motions == again.stage.motions
