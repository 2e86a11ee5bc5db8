"""Sweeps in steps: each force once, settled, its end marked for averaging; over a kill too."""

from itertools import pairwise

import pytest
from pydantic import ValidationError
from yoke_server.bench.models import OrderState
from yoke_server.kinds.legs.force import ForceLeg
from yoke_server.kinds.legs.sweep import SweepLeg
from yoke_server.kinds.motions.programme import Programme
from yoke_server.kinds.stops.motion_end import MotionEnd

from tests.recorder.conftest import answer_of, state_of, the_run

SWEEP = SweepLeg(
    from_n=200.0, to_n=600.0, steps=3, rate_n_s=1000.0, settle_s=0.6, average_s=0.4, back=True
)
FORCES = [200.0, 400.0, 600.0, 400.0, 200.0]


def steps_of(stage):
    marks = [m for m in the_run(stage).markers.values() if m.kind == "step"]
    return sorted(marks, key=lambda m: m.at_ns)


def programme(stage):
    legs = [SWEEP, ForceLeg(force_n=0.0, rate_n_s=1000.0)]
    stage.programme(Programme(legs=legs), [MotionEnd()])


def test_each_step_is_reached_settles_and_is_marked(stage):
    programme(stage)
    stage.start_order()
    stage.run(15)
    run, steps = the_run(stage), steps_of(stage)
    assert (run.state, run.why) == ("kept", "The actuator has done its part")
    assert [m.text for m in steps] == [f"Step {i}: {f:g} N" for i, f in enumerate(FORCES, start=1)]
    assert {round((m.at_ns - m.from_ns) * 1e-9, 6) for m in steps} == {0.4}
    ends = [m.at_ns * 1e-9 for m in steps]
    assert all(b - a >= 1.0 for a, b in pairwise(ends))
    moves = [name for _, motion, name in stage.motions if motion != "RETURN"]
    assert len(moves) == len(set(moves)) == len(FORCES) + 1


def test_a_sweep_that_was_held_goes_on_with_its_step(stage):
    programme(stage)
    stage.start_order()
    stage.run(2)
    while len(steps_of(stage)) < 2:
        stage.run(0.2)
    stage.crash()
    stage.run(1)
    stage.start()
    stage.run(6)
    held = stage.process.publisher.last.programme
    assert held.held == "The recorder began anew"
    assert len(steps_of(stage)) == 2
    key = stage.order("go_on", run=next(iter(stage.server.runs)), operator=None)
    stage.run(15)
    assert state_of(stage, key) == OrderState.DONE, answer_of(stage, key)
    texts = [m.text for m in steps_of(stage)]
    assert texts == [f"Step {i}: {f:g} N" for i, f in enumerate(FORCES, start=1)]
    assert the_run(stage).state == "kept"


def test_on_paper_it_takes_its_way_and_its_waits():
    paper = SWEEP.on_paper(0.0)
    assert paper.seconds == pytest.approx((200 + 400 + 400) / 1000 + 5 * 1.0)
    assert (paper.lowest, paper.highest, paper.end) == (0.0, 600.0, 200.0)
    assert SWEEP.sentence == "200 N to 600 N and back in steps, 5 averages of 0.4 s."


@pytest.mark.parametrize("wrong", [{"to_n": 200.0}, {"steps": 1}, {"average_s": 0.0}])
def test_a_sweep_to_nowhere_is_refused(wrong):
    with pytest.raises(ValidationError):
        SweepLeg(**(SWEEP.model_dump() | wrong))
