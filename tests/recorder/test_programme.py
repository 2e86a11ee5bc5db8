"""Programmes, guards, pauses and markers on a virtual clock."""

import itertools

import numpy as np
import pytest
from yoke_server.bench.models import OrderState
from yoke_server.kinds.guards.base import GuardAction
from yoke_server.kinds.guards.no_signal import NoSignal
from yoke_server.kinds.guards.outside import Outside
from yoke_server.kinds.guards.too_fast import TooFast
from yoke_server.kinds.legs.force import ForceLeg
from yoke_server.kinds.legs.hold import HoldLeg
from yoke_server.kinds.legs.repeat import RepeatLeg
from yoke_server.kinds.legs.wait import WaitLeg
from yoke_server.kinds.legs.wave import WaveLeg
from yoke_server.kinds.motions.no_motion import NoMotion
from yoke_server.kinds.motions.programme import Programme
from yoke_server.kinds.stops.motion_end import MotionEnd
from yoke_server.kinds.stops.time_up import TimeUp
from yoke_server.record.models import Cause, MarkerKind, RunState

from tests.recorder.conftest import answer_of, state_of, stored, stream_of, the_run
from tests.recorder.test_stops import FORCE, begun
from tests.simulation.virtual import BLOCK_S

UP = ForceLeg(force_n=1000.0, rate_n_s=1000.0)
DOWN = ForceLeg(force_n=0.0, rate_n_s=1000.0)
WAVE = WaveLeg(lowest_n=200.0, highest_n=1800.0, frequency_hz=2.0, cycles=4)


def programme(*legs, guards=(), **more):
    """A run of these legs under way, which ends with the last."""
    return begun(Programme(legs=list(legs)), [MotionEnd()], guards=guards, **more)


def shown(stage):
    return stage.recorder._state().programme


def motions(stage):
    return [motion for _, motion, _ in stage.motions]


def order(stage, kind, **more):
    run_id = next(reversed(stage.server.runs))
    return stage.order(kind, run=run_id, operator=None, **more)


def markers(stage):
    return [(m.kind, m.text) for m in the_run(stage).markers.values()]


def test_legs_follow_each_other_and_the_run_ends_with_the_last():
    stage = programme(UP, HoldLeg(seconds=1.0), WAVE, DOWN)
    stage.run(9)
    run = the_run(stage)
    assert (run.state, run.why) == (RunState.KEPT, "The actuator has done its part")
    assert motions(stage) == ["FORCE", "SINE", "FORCE"]
    assert (MarkerKind.PROGRAMME, "The programme is over") in markers(stage)
    at = [t for t, _, _ in stage.motions]
    assert 1.9 < at[1] - at[0] < 2.4  # a second up, a second held
    assert 1.5 < at[2] - at[1] < 3.0  # four cycles at 2 Hz


def test_a_repeat_goes_back_as_often_as_it_says():
    short = HoldLeg(seconds=0.3)
    stage = programme(UP, short, DOWN, RepeatLeg(first=1, times=3), WAVE)
    seen = set()
    for _ in range(120):
        stage.run(0.1)
        seen |= {shown(stage).round} if shown(stage) else set()
    assert seen == {1, 2, 3, None}
    assert motions(stage) == ["FORCE"] * 6 + ["SINE"]


def test_a_programme_waits_for_a_person_as_long_as_that_takes():
    stage = programme(HoldLeg(seconds=0.5), WaitLeg(text="turn the specimen"), UP)
    stage.run(60)
    assert (shown(stage).leg, shown(stage).waits, shown(stage).held) == (2, True, "")
    assert "turn the specimen" in shown(stage).words
    assert not motions(stage)
    key = order(stage, "go_on")
    stage.run(3)
    assert state_of(stage, key) == OrderState.DONE
    assert motions(stage) == ["FORCE"]


def test_what_waits_for_nobody_is_not_told_to_go_on():
    stage = programme(HoldLeg(seconds=30.0))
    key = order(stage, "go_on")
    stage.run(1)
    assert answer_of(stage, key)["title"] == "Nothing waits for a person."


def test_legs_of_time_alone_need_no_actuator():
    stage = programme(HoldLeg(seconds=2.0), HoldLeg(seconds=1.0), reachable=False)
    stage.run(4)
    assert the_run(stage).why == "The actuator has done its part"


def test_held_here_it_stands_and_goes_on_from_there_by_a_person():
    stage = programme(UP, WaveLeg(lowest_n=200.0, highest_n=1800.0, frequency_hz=1.0, cycles=9))
    stage.run(4)
    order(stage, "hold")
    stage.run(0.6)
    counted = shown(stage).cycles
    assert (stage.frame.motion, shown(stage).held) == ("HOLD", "Held by a person")
    assert counted >= 2
    stage.run(5)
    assert (stage.frame.motion, shown(stage).cycles) == ("HOLD", counted)
    order(stage, "go_on")
    stage.run(1)
    assert (stage.frame.motion, shown(stage).held) == ("SINE", "")
    stage.run(12)
    assert the_run(stage).state == RunState.KEPT
    assert stage.recorder.run.recording is None


def test_a_leg_is_skipped_and_a_gentle_end_takes_the_load_off():
    stage = programme(UP, HoldLeg(seconds=60.0), WAVE)
    stage.run(2)
    order(stage, "skip")
    stage.run(1)
    assert stage.frame.motion == "SINE"
    order(stage, "unload")
    stage.run(10)
    assert the_run(stage).why == "The actuator has done its part"
    assert stage.frame.kept_n == 0.0


def test_after_a_kill_it_stands_where_it_was_until_a_person_resumes_it():
    stage = programme(UP, WaveLeg(lowest_n=200.0, highest_n=1800.0, frequency_hz=1.0, cycles=30))
    stage.run(4)
    stage.crash()
    stage.run(3)
    stage.start()
    stage.run(6)
    assert stage.frame.motion == "HOLD"
    assert (shown(stage).leg, shown(stage).held) == (2, "The recorder began anew")
    order(stage, "go_on")
    stage.run(1)
    assert stage.frame.motion == "SINE"


def test_a_gentle_end_is_still_one_after_a_kill():
    """Whoever has it go on means that end, not the leg that it took the place of."""
    slow = WaveLeg(lowest_n=200.0, highest_n=1800.0, frequency_hz=1.0, cycles=30)
    stage = programme(ForceLeg(force_n=1500.0, rate_n_s=1500.0), slow, HoldLeg(seconds=60.0))
    stage.run(3)
    order(stage, "unload")
    stage.run(1)
    assert (shown(stage).leg, shown(stage).legs) == (2, 2)
    stage.crash()
    stage.run(3)
    stage.start()
    stage.run(6)
    assert shown(stage).words.startswith("To 0 N at 200 N/s")
    order(stage, "go_on")
    stage.run(12)
    assert motions(stage) == ["FORCE", "SINE", "FORCE", "FORCE"]
    assert the_run(stage).why == "The actuator has done its part"


def test_what_the_recorder_stopped_is_not_begun_by_the_next_leg():
    """While it holds a force nobody sees it any more; the leg after that must not move it."""
    stage = programme(UP, HoldLeg(seconds=3.0), WAVE)
    stage.run(1.0)
    stage.devices["A1"].reachable = False
    stage.run(1.6)
    stage.devices["A1"].reachable = True
    stage.run(8)
    assert motions(stage) == ["FORCE"]
    assert shown(stage).held.startswith("The actuator stands: the newest samples of A1")


@pytest.mark.parametrize(
    ("guard", "words"),
    [
        (Outside(channel=FORCE, highest=1500.0), "F went above 1.5 kN to "),
        (TooFast(channel=FORCE, per_s=4000.0, over_s=0.05), "F changed by "),
    ],
)
def test_a_guard_that_trips_holds_before_anything_is_stored(guard, words):
    stage = programme(UP, WAVE, guards=[guard], force=None)
    stage.run(6)
    (marker,) = [m for m in the_run(stage).markers.values() if m.kind == MarkerKind.GUARD][:1]
    assert marker.text.startswith(words)
    assert marker.text.endswith(": held")
    assert (stage.frame.motion, shown(stage).held) == ("HOLD", marker.text.removesuffix(": held"))


def test_nothing_begins_to_move_while_a_guard_is_beyond():
    stage = programme(UP, guards=[Outside(channel=FORCE, lowest=400.0)])
    stage.run(3)
    run = the_run(stage)
    assert run.state == RunState.INTERRUPTED
    assert run.why.startswith("The actuator did not move: A guard has tripped: F went below 0.4")
    assert not motions(stage)


def test_from_the_sample_beyond_to_the_stop_it_is_less_than_two_blocks():
    guard = Outside(channel=FORCE, highest=1500.0)
    stage = programme(UP, WAVE, guards=[guard])
    while not any(motion == "SINE" for _, motion, _ in stage.motions):
        stage.run(0.01)
    (began,) = [at for at, motion, _ in stage.motions if motion == "SINE"]
    low, high = 200.0, 1800.0
    beyond = np.arccos((low + high - 2 * 1500.0) / (high - low)) / (2 * np.pi * 2.0)
    while stage.frame.motion == "SINE":
        stage.run(0.005)
    assert stage.clock.now - (began + beyond) < 2 * BLOCK_S + 0.05


def test_a_warning_moves_nothing_and_is_told_once_until_it_is_calm_again():
    guard = Outside(channel=FORCE, highest=900.0, action=GuardAction.WARN)
    stage = programme(UP, HoldLeg(seconds=3.0), DOWN, HoldLeg(seconds=2.0), UP, guards=[guard])
    stage.run(3)
    assert stage.recorder._state().tripped == [0]
    stage.run(12)
    texts = [text for kind, text in markers(stage) if kind == MarkerKind.GUARD]
    assert len(texts) == 2
    assert all(t.startswith("F went above 0.9 kN") and t.endswith(": warned") for t in texts)
    assert the_run(stage).state == RunState.KEPT


def test_a_guard_ends_the_run_where_it_is_to():
    guard = Outside(channel=FORCE, highest=1500.0, action=GuardAction.STOP)
    stage = programme(UP, WAVE, guards=[guard])
    stage.run(8)
    assert the_run(stage).state == RunState.KEPT
    assert the_run(stage).why.startswith("F went above 1.5 kN to ")
    assert stage.frame.motion == "HOLD"


def test_a_channel_that_gives_no_signal_trips_its_guard():
    stage = programme(
        HoldLeg(seconds=60.0), guards=[NoSignal(channel=FORCE, action=GuardAction.STOP)]
    )
    stage.run(5)
    assert the_run(stage).state == RunState.RECORDING
    stage.devices["A1"].flat = True
    stage.run(5)
    assert the_run(stage).why == "F has given no signal for 2 s"


def test_a_peak_shorter_than_its_debounce_trips_nothing():
    brief = Outside(channel=FORCE, highest=1500.0, debounce_s=1.0)
    stage = programme(UP, WAVE, guards=[brief])  # above for less than a fifth of a second
    stage.run(8)
    assert not [m for m in the_run(stage).markers.values() if m.kind == MarkerKind.GUARD]
    assert the_run(stage).why == "The actuator has done its part"


def test_in_a_pause_nothing_moves_and_nothing_is_kept_and_the_time_does_not_pass():
    stage = begun(NoMotion(), [TimeUp(seconds=8.0)], pull=False)
    stage.run(2)
    order(stage, "pause")
    stage.run(0.3)
    before = stored(stage)
    stage.run(20)
    order(stage, "go_on")
    stage.run(3)
    assert the_run(stage).state == RunState.RECORDING
    stage.run(8)
    run, stream = the_run(stage), stream_of(stage)
    assert (run.state, run.why) == (RunState.KEPT, "The 8 s are over")
    assert [s[2] for s in stream.segments] == [Cause.START.value, Cause.PAUSE.value]
    assert all(s[7] == 0 for s in stream.segments)  # nothing is missing
    after = stored(stage)
    assert after[: len(before)] == before
    gap = max(b - a for a, b in itertools.pairwise(after)) * BLOCK_S
    assert 19.8 < gap < 20.8
    assert [text for _, text in markers(stage)] == ["Paused", "Goes on"]


def test_a_pause_holds_over_a_kill():
    stage = begun(NoMotion(), [], pull=False)
    stage.run(2)
    order(stage, "pause")
    stage.run(2)
    before = stored(stage)
    stage.crash()
    stage.run(2)
    stage.start()
    stage.run(6)
    assert stage.recorder._state().paused == "Paused"
    assert stored(stage) == before
    order(stage, "go_on")
    stage.run(3)
    assert [s[2] for s in stream_of(stage).segments] == [Cause.START.value, Cause.PAUSE.value]


def test_a_paused_motion_is_gone_on_with_together_with_the_samples():
    stage = programme(UP, WaveLeg(lowest_n=200.0, highest_n=1800.0, frequency_hz=1.0, cycles=6))
    stage.run(3)
    order(stage, "pause")
    stage.run(5)
    assert (stage.frame.motion, shown(stage).held) == ("HOLD", "Paused")
    refused = order(stage, "skip")
    stage.run(0.3)
    assert "is paused" in answer_of(stage, refused)["title"]
    order(stage, "go_on")
    stage.run(1)
    assert stage.frame.motion == "SINE"


def test_a_person_names_an_instant_once_however_often_the_answer_is_lost():
    stage = begun(NoMotion(), [], pull=False)
    order(stage, "mark", text="sound at crown")
    stage.run(0.02)
    stage.server.lose_answers = 1
    stage.run(6)
    assert markers(stage) == [(MarkerKind.PERSON, "sound at crown")]


def test_a_run_that_is_over_is_told_nothing_any_more():
    stage = begun(NoMotion(), [TimeUp(seconds=3.0)], pull=False)
    stage.run(6)
    key = order(stage, "mark", text="late")
    stage.run(1)
    assert state_of(stage, key) == OrderState.REFUSED


def unloading(*legs, **more):
    guard = Outside(channel=FORCE, highest=1500.0, action=GuardAction.UNLOAD)
    return programme(*legs, guards=[guard], **more)


def test_a_guard_takes_the_load_off_and_the_programme_is_over():
    stage = unloading(UP, WAVE, DOWN, WAVE)
    stage.run(12)
    run = the_run(stage)
    assert (run.state, run.why) == (RunState.KEPT, "The actuator has done its part")
    assert motions(stage) == ["FORCE", "SINE", "FORCE"]
    (said,) = [text for kind, text in markers(stage) if kind == MarkerKind.GUARD]
    assert said.startswith("F went above 1.5 kN to ") and said.endswith(": goes to no load")


def test_what_a_person_has_stand_is_not_moved_by_a_guard():
    stage = unloading(UP, WaveLeg(lowest_n=200.0, highest_n=1400.0, frequency_hz=1.0, cycles=9))
    stage.run(3)
    order(stage, "hold")
    stage.run(1)
    before = motions(stage)
    stage.recorder.run.recording.programme.relieve("F went above")
    stage.run(5)
    assert motions(stage) == before
    assert shown(stage).held == "Held by a person"


def test_what_tripped_before_anything_moved_stands():
    stage = unloading(HoldLeg(seconds=1.0), WaitLeg(text="look"), UP)
    stage.run(3)
    stage.recorder.run.recording.programme.relieve("F went above 1.5 kN")
    stage.run(2)
    assert not motions(stage)
    assert shown(stage).held == "F went above 1.5 kN"


def test_a_guard_without_a_signal_cannot_unload():
    with pytest.raises(ValueError, match="nobody would see"):
        NoSignal(channel=FORCE, action=GuardAction.UNLOAD)
