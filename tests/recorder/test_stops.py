"""What ends a run by itself, on a virtual clock: the actuator stands first, then a tail."""

import pytest
from yoke_core.fatigue.cycle_meter import CycleMeter
from yoke_server.bench.drivers.base import FrameState
from yoke_server.kinds.computed import ComputedChannel
from yoke_server.kinds.motions.force_ramp import ForceRamp
from yoke_server.kinds.motions.force_sine import ForceSine
from yoke_server.kinds.motions.no_motion import NoMotion
from yoke_server.kinds.steps.filters import LowPass
from yoke_server.kinds.stops.cycles_done import CyclesDone
from yoke_server.kinds.stops.drop import Drop
from yoke_server.kinds.stops.force_drop import ForceDrop
from yoke_server.kinds.stops.limit import Limit
from yoke_server.kinds.stops.motion_end import MotionEnd
from yoke_server.kinds.stops.time_up import TimeUp
from yoke_server.live.protocol import Phase
from yoke_server.record.models import RunState
from yoke_server.record.recorder.model import events

from tests.recorder.conftest import stream_of
from tests.simulation.sessions import data_of
from tests.simulation.stage import Stage

FORCE = "0f3a1b7c21d9"  # the key of F, on A1
SINE = ForceSine(lowest_n=200.0, highest_n=1800.0, frequency_hz=0.5)


def begun(motion=None, stops=(), force=None, pull=True, steps=(), computed=(), guards=(), **frame):
    """A run under way with other motion and stops than the coupon's, on such a frame.

    steps : of the force's reading
    """
    stage = Stage()
    channels = [
        c.model_copy(update={"steps": list(steps)}) if c.key == FORCE else c
        for c in stage.server.setup.channels
    ]
    changes = {
        "stops": list(stops),
        "guards": list(guards),
        "channels": channels,
        "computed": list(computed),
    }
    stage.put(
        stage.server.setup.model_copy(update=changes | ({"motion": motion} if motion else {}))
    )
    stage.force = force
    stage.run(3)
    for name, value in frame.items():
        setattr(stage.frame, name, value)
    stage.start_order(pull=pull)
    stage.run(2)
    return stage


def ended(stage):
    """Why the one run ended, after the actuator stood."""
    (run,) = stage.server.runs.values()
    assert stage.frame.motion == "HOLD"
    assert run.state == RunState.KEPT
    return run.why


def test_after_its_time():
    stage = begun(stops=[TimeUp(seconds=6.0)])
    assert stage.frame.motion == "RAMP"
    stage.run(8)
    assert ended(stage) == "The 6 s are over"


def test_after_its_cycles_which_are_told_meanwhile():
    stage = begun(SINE, [CyclesDone(cycles=4)])
    assert stage.frame.motion == "SINE"
    stage.run(5)
    meter = stage.recorder.run.recording.cycles
    assert (meter.cycles, meter.held) == (3, pytest.approx((200, 1800), rel=0.02))
    stage.run(4)
    assert ended(stage) == "4 cycles are done"


def test_cycles_are_counted_on_after_a_kill_each_once():
    """Some blocks were stored and counted, some are sent again: none is counted twice."""
    stage = begun(SINE, [CyclesDone(cycles=50)])
    stage.run(7)
    before = stage.recorder.run.recording.cycles.cycles
    stage.crash()
    stage.run(3)
    stage.start()
    stage.run(9)
    meter = stage.recorder.run.recording.cycles
    assert before >= 3
    assert meter.cycles in (before, before + 1)  # it stood from its heartbeat's end on
    data = data_of(stream_of(stage))[0].astype(float)
    twin = CycleMeter(SINE.lowest_n, SINE.highest_n)
    twin.push(data / 2e-3 * 25e3)
    assert meter.cycles == twin.cycles


@pytest.mark.parametrize("sense", [1, -1], ids=["pulling", "pressing"])
def test_the_force_falls_whichever_way_it_goes(sense):
    stage = begun(stops=[ForceDrop(share=0.4, arm_n=500.0)], force=sense * 900.0)
    stage.run(1)
    assert stage.frame.motion == "RAMP"
    stage.force = sense * 100.0
    stage.run(2)
    assert ended(stage) == "The force fell by 40 %"


def test_a_force_that_does_not_change_at_all_gives_no_reading():
    stage = begun(stops=[ForceDrop(share=0.4, arm_n=500.0)], force=900.0)
    stage.devices["A1"].flat = True  # its converter hangs
    stage.run(1.5)
    assert stage.frame.motion == "RAMP"
    stage.run(2)
    assert ended(stage) == "F did not change at all for 2 s: it gives no reading"


TWICE = ComputedChannel(
    key="twice", name="twice F", unit="kN", decimals=2, formula=f"2 * {{{FORCE}}}"
)
LATE = TWICE.model_copy(update={"formula": f"lowpass({{{FORCE}}}, to 0.2 Hz, order 4)"})


def test_any_channel_may_fall_from_its_largest():
    stage = begun(
        stops=[Drop(channel="twice", share=0.4, arm=1000.0)], force=900.0, computed=[TWICE]
    )
    stage.run(1)
    stage.force = 700.0
    stage.run(1)
    assert stage.frame.motion == "RAMP"
    stage.force = 500.0
    stage.run(2)
    assert ended(stage) == "twice F fell by 40 %"


def test_a_drop_that_nobody_can_see_ends_the_run():
    stage = begun(stops=[Drop(channel=FORCE, share=0.4, arm=500.0)], force=900.0)
    stage.run(1)
    stage.force = 1e6
    stage.run(2)
    assert ended(stage) == "F clipped, so that its drop could not be watched"


@pytest.mark.parametrize(
    ("limit", "force", "why"),
    [
        ({"highest": 900.0}, 1000.0, "F went above 0.9 kN"),
        ({"lowest": -100.0}, -200.0, "F went below -0.1 kN"),
        ({"highest": 900.0}, 1e6, "F clipped, so that its limit could not be watched"),
    ],
)
def test_when_a_channel_leaves_its_limits_or_cannot_be_seen(limit, force, why):
    stage = begun(stops=[Limit(channel=FORCE, **limit)], force=800.0 if force > 0 else 0.0)
    assert stage.recorder.context.phase is Phase.RECORDING
    stage.force = force
    stage.run(0.75)
    assert stage.frame.motion == "HOLD"
    stage.run(2)
    assert ended(stage) == why


def test_a_limit_of_a_computed_channel():
    stage = begun(stops=[Limit(channel="twice", highest=1900.0)], force=900.0, computed=[TWICE])
    stage.run(2)
    assert stage.frame.motion == "RAMP"
    stage.force = 1000.0
    stage.run(2)
    assert ended(stage) == "twice F went above 1.9 kN"


def test_a_computed_channel_that_gives_no_reading_for_a_second_is_not_watched():
    """Its filter settles for longer than that; nothing moves on what nobody sees."""
    stage = begun(stops=[Limit(channel="twice", highest=1900.0)], force=900.0, computed=[LATE])
    stage.run(2)
    assert ended(stage) == "twice F gives no reading, so that its limit could not be watched"


FILTERED = {"stops": [Limit(channel=FORCE, highest=1900.0)], "steps": [LowPass(corner_hz=0.5)]}
SETTLED = 7  # s, after which the filter has settled


def test_a_limit_watches_the_filtered_reading():
    stage = begun(force=900.0, **FILTERED)
    stage.run(SETTLED)
    stage.force = 2500.0
    stage.run(0.05)  # too short for the filter to follow
    stage.force = 900.0
    stage.run(2)
    assert stage.frame.motion == "RAMP"
    stage.force = 2500.0
    stage.run(3)
    assert ended(stage) == "F went above 1.9 kN"


def test_until_its_filter_has_settled_a_limit_watches_the_unfiltered_reading():
    stage = begun(force=900.0, **FILTERED)
    stage.force = 2000.0
    stage.run(0.3)  # the filter would take a second
    assert stage.frame.motion == "HOLD"
    stage.run(2)
    assert ended(stage) == "F went above 1.9 kN"


def test_after_a_gap_the_filter_settles_anew_and_the_unfiltered_reading_is_watched():
    stage = begun(force=900.0, **FILTERED)
    stage.run(SETTLED)
    stage.devices["A1"].deaf, stage.devices["A1"].losing = True, 1
    stage.run(1)
    stage.force = 2000.0
    stage.run(0.3)
    stage.force = 900.0
    stage.run(6)  # until the lost block is given up, and what waited behind it is looked at
    assert ended(stage) == "F went above 1.9 kN"


@pytest.mark.parametrize(
    ("motion", "stop"), [(None, ForceDrop(share=0.4, arm_n=500.0)), (SINE, CyclesDone(cycles=4))]
)
def test_when_the_force_that_is_watched_has_no_reading_for_a_second(motion, stop):
    stage = begun(motion, [stop], force=300.0)
    stage.force = 1e6  # a wire came off: the input stands at its rail
    stage.run(0.6)
    stage.force = 350.0  # for a moment only
    stage.run(1.6)
    assert stage.frame.motion in ("RAMP", "SINE")
    stage.force = 1e6
    stage.run(2.5)
    assert ended(stage) == "F clipped for 1 s, so that it could not be watched"


def test_a_run_that_moves_nothing_goes_on_without_a_reading_of_the_force():
    stage = begun(stops=[ForceDrop(share=0.4, arm_n=500.0)], force=1e6, pull=False)
    stage.devices["A1"].flat = True
    stage.run(5)
    assert stage.recorder.context.phase is Phase.RECORDING


def test_when_the_actuator_has_done_its_part():
    stage = begun(ForceRamp(peak_n=1000.0, rate_n_s=300.0), [MotionEnd()])
    assert stage.frame.motion == "FORCE"
    stage.run(8)
    assert ended(stage) == "The actuator has done its part"


def test_when_the_actuator_trips_at_a_limit_of_its_own():
    stage = begun(ForceRamp(peak_n=1000.0, rate_n_s=100.0), [MotionEnd()])
    stage.frame._hold("force limit")
    stage.run(4)
    (run,) = stage.server.runs.values()
    assert run.why == "The actuator stopped at a limit of its own"


def test_an_actuator_that_holds_unwatched_has_not_done_its_part():
    stage = begun(ForceRamp(peak_n=1000.0, rate_n_s=100.0), [MotionEnd()])
    stage.devices["A1"].reachable = False  # nobody sees what it does: the recorder stops it
    stage.run(8)
    assert stage.frame.motion == "HOLD"
    assert stage.recorder.context.phase is Phase.RECORDING


def test_an_actuator_that_begins_late_has_not_done_its_part_before():
    """It still stands from its way home when it is first looked at."""
    ramp = ForceRamp(peak_n=1000.0, rate_n_s=500.0)
    stage = begun(ramp, [MotionEnd()], late_s=1.0, cause="arrived")
    assert stage.recorder.run.recording.triggered == ""
    stage.run(8)
    assert ended(stage) == "The actuator has done its part"


def test_an_actuator_that_was_done_before_anybody_looked_has_done_its_part():
    stage = begun(ForceRamp(peak_n=1.0, rate_n_s=1e5), [MotionEnd()])
    stage.run(3)
    assert ended(stage) == "The actuator has done its part"


@pytest.mark.parametrize("problem", ["", "the device does not answer in time."])
def test_a_late_answer_to_the_order_of_an_earlier_run_says_nothing_of_this_one(problem):
    stage = begun(NoMotion(), [MotionEnd()])
    stage.recorder.handle(
        events.ActuatorCommandFinished("frame", "begin", "an earlier order", problem)
    )
    state = FrameState("HOLD", 0.0, "arrived", "an earlier order")
    stage.recorder.handle(events.ActuatorState("frame", state))
    assert stage.recorder.run.recording.triggered == ""
    assert stage.recorder.context.phase is Phase.RECORDING


def test_a_motion_that_the_actuator_refuses_ends_the_run_and_says_why():
    stage = begun(SINE.model_copy(update={"highest_n": 30e3}), [CyclesDone(cycles=4)])
    stage.run(2)
    (run,) = stage.server.runs.values()
    assert run.state == RunState.INTERRUPTED
    assert "force outside the force limit" in run.why


def test_measuring_only_moves_nothing_and_needs_nothing_to_stand_at_home():
    stage = begun(NoMotion(), [TimeUp(seconds=4.0)])
    stage.run(8)
    assert ended(stage) == "The 4 s are over"
    assert stage.motions == []
