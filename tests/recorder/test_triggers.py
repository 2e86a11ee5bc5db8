"""Runs that wait for a trigger, and dry runs: what is kept, from when on, and what is not."""

from datetime import timedelta

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from yoke_server.bench.models import OrderState
from yoke_server.kinds.guards.base import GuardAction
from yoke_server.kinds.guards.outside import Outside
from yoke_server.kinds.motions.force_ramp import ForceRamp
from yoke_server.kinds.motions.no_motion import NoMotion
from yoke_server.kinds.stops.motion_end import MotionEnd
from yoke_server.kinds.stops.time_up import TimeUp
from yoke_server.kinds.triggers.at_time import AtTime
from yoke_server.kinds.triggers.level import Level
from yoke_server.kinds.triggers.watching import TriggerWatch
from yoke_server.setups.watched import WatchedSetup

from tests.recorder.conftest import answer_of, is_whole, state_of, stored, stream_of, the_run
from tests.simulation.devices import CAPACITY_N, OUTPUT
from tests.simulation.sessions import data_of
from tests.simulation.stage import FORCE, two_devices
from tests.simulation.virtual import BLOCK_S, RATE_HZ, START_NS

UP = Level(channel=FORCE, level=500.0, hysteresis=100.0, before_s=1.0)
LOAD = ForceRamp(peak_n=1000.0, rate_n_s=400.0)
ALL = ("A1", "A2")


def shown(stage):
    return stage.process.publisher.last


def began_s(stage):
    """When the run begins, in seconds of the stage."""
    return (the_run(stage).start_ns - START_NS) * 1e-9


def test_nothing_is_kept_before_a_trigger_but_what_it_asks_for(stage):
    stage.programme(NoMotion(), [], trigger=UP)
    stage.force = 0.0
    stage.start_order(pull=False)
    stage.run(5)
    assert shown(stage).waiting == "F rises above 0.5 kN"
    assert [stored(stage, label) for label in ALL] == [[], []]
    stage.force = 800.0
    fired = stage.clock.now
    stage.run(3)
    assert shown(stage).waiting == ""
    assert began_s(stage) == pytest.approx(fired - 1.0, abs=1.5 * BLOCK_S)
    assert shown(stage).elapsed_s == pytest.approx(4, abs=1.2)
    stage.stop()
    stage.run(1)
    for label in ALL:
        assert is_whole(stored(stage, label))
        assert len(stored(stage, label)) == pytest.approx(4 / BLOCK_S, abs=4)
    (marker,) = the_run(stage).markers.values()
    assert (marker.kind, marker.text) == ("trigger", "Trigger: F rises above 0.5 kN")


def test_a_force_that_is_high_already_is_no_rise(stage):
    stage.programme(NoMotion(), [], trigger=UP)
    stage.force = 800.0
    stage.start_order(pull=False)
    stage.run(3)
    stage.force = 450.0  # not below by the hysteresis
    stage.run(2)
    stage.force = 800.0
    stage.run(2)
    assert shown(stage).waiting
    stage.force = 300.0
    stage.run(1)
    stage.force = 800.0
    stage.run(2)
    assert not shown(stage).waiting


def test_what_moves_is_begun_and_guarded_while_it_waits(stage):
    guard = Outside(channel=FORCE, highest=450.0, action=GuardAction.HOLD)
    stage.programme(LOAD, [MotionEnd()], [guard], trigger=UP)
    stage.start_order()
    stage.run(4)
    assert shown(stage).waiting
    assert not stage.frame.is_pulling
    assert shown(stage).programme.held.startswith("F went above")
    assert stored(stage) == []


def test_a_pull_is_kept_from_its_trigger_to_its_end(stage):
    stage.programme(LOAD, [MotionEnd()], trigger=UP)
    stage.start_order()
    stage.run(8)
    run = the_run(stage)
    assert (run.state, run.why) == ("kept", "The actuator has done its part")
    assert is_whole(stored(stage))
    newtons = data_of(stream_of(stage))[0].astype(float) / OUTPUT * CAPACITY_N
    crossed_s = np.flatnonzero(newtons > 500)[0] / RATE_HZ
    assert 1.0 <= crossed_s <= 1.0 + BLOCK_S + 1 / RATE_HZ


def test_what_ends_before_its_trigger_has_kept_nothing(stage):
    stage.programme(NoMotion(), [TimeUp(seconds=1.0)], trigger=UP)
    stage.force = 0.0
    stage.start_order(pull=False)
    stage.run(4)
    assert shown(stage).waiting, "its time begins with the trigger"
    stage.stop()
    stage.run(1)
    run = the_run(stage)
    assert (run.state, run.why) == ("interrupted", "Stopped by hand, before its trigger came")
    assert stored(stage) == []
    devices = stage.recorder.context.devices.values()
    ringed = sum(p.block.counts.nbytes for d in devices for p in d.line.ring._blocks)
    assert stage.recorder.context.parts.budget.used == ringed, "what was held is let go"


@pytest.mark.parametrize("fired", [False, True])
def test_a_recorder_that_restarts_waits_on_or_goes_on(stage, fired):
    stage.programme(NoMotion(), [], trigger=UP)
    stage.force = 0.0
    stage.start_order(pull=False)
    stage.run(3)
    if fired:
        stage.force = 800.0
        stage.run(2)
    began = the_run(stage).start_ns
    stage.crash()
    stage.run(1)
    stage.start()
    stage.run(3)
    assert bool(shown(stage).waiting) is not fired
    if fired:
        assert the_run(stage).start_ns == began
    stage.force = 0.0
    stage.run(1)
    stage.force = 800.0
    stage.run(3)
    assert not shown(stage).waiting
    stage.stop()
    stage.run(1)
    assert is_whole(stored(stage))
    assert the_run(stage).state == "kept"


def test_a_pause_is_refused_while_nothing_is_kept(stage):
    stage.programme(NoMotion(), [], trigger=UP)
    stage.force = 0.0
    stage.start_order(pull=False)
    stage.run(2)
    key = stage.order("pause", run=next(iter(stage.server.runs)), operator=None)
    stage.run(0.5)
    assert state_of(stage, key) == OrderState.REFUSED
    assert "waits for its trigger" in answer_of(stage, key)["title"]


def test_a_moment_is_waited_for(stage):
    moment = stage.clock.utc() + timedelta(seconds=6)
    stage.programme(NoMotion(), [], trigger=AtTime(moment=moment))
    stage.start_order(pull=False)
    stage.run(4)
    assert shown(stage).waiting.startswith("it is 20")
    assert stored(stage) == []
    stage.run(4)
    assert not shown(stage).waiting
    assert stage.clock.utc() - moment < timedelta(seconds=3)
    assert stored(stage)
    moving = two_devices().model_copy(update={"motion": LOAD})
    lacks = AtTime(moment=moment).lacks(WatchedSetup(moving))
    assert "nobody may be there" in lacks[0].text


def test_a_dry_run_moves_and_guards_and_keeps_nothing(stage):
    guard = Outside(channel=FORCE, highest=800.0, action=GuardAction.HOLD)
    stage.programme(LOAD, [MotionEnd()], [guard])
    stage.start_order(is_dry=True)
    stage.run(2)
    assert stage.frame.is_pulling
    assert shown(stage).dry
    stage.run(4)
    assert shown(stage).programme.held.startswith("F went above")
    stage.stop()
    stage.run(1)
    run = the_run(stage)
    assert run.is_dry
    assert run.state == "kept"
    assert all(not stream.blocks for stream in stage.server.streams.values())


def test_a_dry_run_that_is_taken_up_stays_dry(stage):
    stage.programme(NoMotion(), [])
    stage.start_order(pull=False, is_dry=True)
    stage.run(2)
    stage.crash()
    stage.start()
    stage.run(3)
    assert shown(stage).dry
    assert all(not stream.blocks for stream in stage.server.streams.values())


class Readings:
    """A channel whose readings are those that it is given."""

    device = "A1"

    def look(self, block, follows):
        return type("Look", (), {"samples": block})()


@given(
    st.lists(st.floats(-10, 10) | st.just(float("nan")), min_size=1, max_size=60),
    st.lists(st.integers(1, 59), max_size=6),
    st.sampled_from([1.0, -1.0]),
    st.floats(0, 3),
)
def test_a_trigger_fires_alike_for_any_blocks(values, cuts, sign, hysteresis):
    values = np.array(values)
    expected = None
    is_set = False
    for place, value in enumerate(values):
        if is_set and sign * (value - 1.0) > 0:
            expected = place
            break
        is_set = is_set or sign * (value - 1.0) < -hysteresis
    watch, first, found = TriggerWatch(Readings(), 1.0, hysteresis, sign), 0, None
    for part in np.split(values, sorted({c for c in cuts if c < len(values)})):
        at = watch.fires(part, True)
        if at is not None:
            found = first + at
            break
        first += len(part)
    assert found == expected
