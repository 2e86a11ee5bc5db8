"""Legs that look at a channel, or play a table, on a virtual clock; what they are refused for."""

import numpy as np
import pytest
from pydantic import ValidationError
from yoke_server.kinds.actions import LegProgress
from yoke_server.kinds.legs.history import HistoryLeg
from yoke_server.kinds.legs.hold import HoldLeg
from yoke_server.kinds.legs.output import OutputLeg
from yoke_server.kinds.legs.random import RandomLeg, SpectrumPoint
from yoke_server.kinds.legs.settle import SettleLeg
from yoke_server.kinds.legs.to_reading import ToReadingLeg
from yoke_server.kinds.legs.travel_sweep import TravelSweepLeg
from yoke_server.kinds.legs.wave import WaveLeg
from yoke_server.kinds.motions.programme import Programme
from yoke_server.record.models import RunState

from tests.recorder.conftest import the_run
from tests.recorder.test_programme import DOWN, UP, motions, order, programme, shown
from tests.recorder.test_stops import FORCE

RISING = HistoryLeg(forces_n=[0.0, 400.0, 800.0, 600.0], rate_hz=2.0, source="road.csv")
FLAT = [SpectrumPoint(hz=1.0, density=1e4), SpectrumPoint(hz=5.0, density=1e4)]
TO_1_KN = ToReadingLeg(channel=FORCE, value=1000.0, speed_m_s=1e-4, travel_m=5e-3)


def test_a_leg_ends_where_its_channel_is_at_the_value():
    stage = programme(TO_1_KN, HoldLeg(seconds=3.0))
    while shown(stage) is None or shown(stage).leg == 1:
        stage.run(0.05)
    assert stage.frame.motion == "HOLD"
    force = stage.frame.force_at(stage.clock.now)
    assert 1000 <= force < 1000 + 4e6 * 2e-4 * 0.4  # the stand-in's speed, two blocks and a bit
    stage.run(1)
    assert (shown(stage).leg, shown(stage).held) == (2, "")
    assert stage.frame.force_at(stage.clock.now) == pytest.approx(force, rel=0.02)
    stage.run(4)
    assert the_run(stage).why == "The actuator has done its part"


def test_after_it_the_next_motion_begins_by_the_same_word():
    stage = programme(TO_1_KN, DOWN)
    stage.run(9)
    assert motions(stage) == ["RAMP", "FORCE"]
    assert the_run(stage).state == RunState.KEPT


FAR = TO_1_KN.model_copy(update={"value": 5000.0})


def test_a_channel_whose_device_is_lost_has_it_stand():
    stage = programme(FAR, HoldLeg(seconds=3.0))
    stage.run(0.6)
    stage.devices["A1"].reachable = False
    stage.run(2)
    assert stage.frame.motion == "HOLD"
    assert "newest samples of A1" in shown(stage).held


def test_a_channel_that_says_the_same_for_ever_has_it_stand():
    stage = programme(FAR, HoldLeg(seconds=3.0))
    stage.run(0.6)
    stage.devices["A1"].flat = True
    stage.run(3)
    assert stage.frame.motion == "HOLD"
    assert shown(stage).held == (
        "F did not change at all for 2 s: it gives no reading, which this leg looks at"
    )


def test_held_until_it_has_settled():
    still = SettleLeg(channel=FORCE, within=20.0, for_s=1.0)
    stage = programme(UP, still, DOWN)
    stage.run(8)
    up, down = (at for at, _, _ in stage.motions)
    assert 2.0 < down - up < 3.0  # a second up, a second until it had settled
    assert the_run(stage).state == RunState.KEPT


def test_what_does_not_settle_waits_for_a_person():
    never = SettleLeg(channel=FORCE, within=1e-9, for_s=1.0, at_most_s=2.0)
    stage = programme(HoldLeg(seconds=0.5), never, UP)
    stage.run(8)
    assert shown(stage).held == "It has not settled within 2 s"
    assert not motions(stage)
    order(stage, "go_on")
    stage.run(1)
    assert shown(stage).held == ""
    stage.run(3)
    assert shown(stage).held == "It has not settled within 2 s"
    order(stage, "skip")
    stage.run(1)
    assert motions(stage) == ["FORCE"]


def test_a_history_is_played_and_gone_on_with_where_it_was_held():
    stage = programme(RISING.model_copy(update={"times": 3}), DOWN)
    assert stage.frame.begin_s == -1.0
    stage.run(2)
    order(stage, "hold")
    stage.run(2)
    order(stage, "go_on")
    stage.run(0.5)
    assert motions(stage) == ["PLAY", "PLAY"]
    passed = stage.recorder.run.recording.programme.state.passed_s
    assert passed > 3
    assert stage.frame.begin_s == passed - 2.0  # with the way there; a second is played again
    stage.run(12)
    assert the_run(stage).state == RunState.KEPT


def test_a_random_force_is_the_same_for_the_same_seed():
    leg = RandomLeg(mean_n=500.0, spectrum=FLAT, seconds_s=6.0)
    stage = programme(leg, DOWN)
    np.testing.assert_array_equal(stage.frame.table, leg.forces)
    assert leg.forces.std() == pytest.approx(200.0, rel=0.2)
    assert leg.on_paper(0.0).seconds == pytest.approx(7.0, rel=0.05)
    stage.run(8)
    assert the_run(stage).state == RunState.KEPT


def test_an_output_is_switched_and_the_programme_goes_on():
    stage = programme(OutputLeg(output=2), HoldLeg(seconds=4.0), OutputLeg(output=2, on=False))
    stage.run(0.8)
    assert stage.frame.outputs == {2: True}
    stage.run(6)
    assert stage.frame.outputs == {2: False}
    assert the_run(stage).state == RunState.KEPT


def test_a_table_shows_its_extremes_on_paper():
    paper = Programme(legs=[RISING]).on_paper
    assert (paper.lowest, paper.highest, paper.seconds) == (0.0, 800.0, 2.5)
    assert max(paper.legs[0].outline) == 800.0


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: HistoryLeg(forces_n=[0.0, 5e5], rate_hz=1.0), "a jump of 5e\\+05 N at 0 s"),
        (
            lambda: HistoryLeg(forces_n=[0.0, 1e5, 2e5], rate_hz=1.0, times=2),
            "a jump of 2e\\+05 N at 2 s",
        ),
        (lambda: HistoryLeg(forces_n=[0.0], rate_hz=1.0), "at least 2"),
        (lambda: RandomLeg(mean_n=0.0, spectrum=FLAT[::-1], seconds_s=5.0), "rise"),
        (
            lambda: RandomLeg(
                mean_n=0.0,
                spectrum=[SpectrumPoint(hz=h, density=0.0) for h in (1.0, 2.0)],
                seconds_s=5.0,
            ),
            "no force in it",
        ),
    ],
)
def test_what_no_actuator_follows_is_refused(make, words):
    with pytest.raises(ValidationError, match=words):
        make()


HELD = WaveLeg(lowest_n=200.0, highest_n=1800.0, frequency_hz=1.0, cycles=40, held_within=0.1)


def test_the_size_of_a_swing_is_held_where_the_actuator_falls_short():
    stage = programme(HELD)
    stage.frame.gain = 0.95  # of 1600 N it swings over 1520 only
    stage.run(25)
    low, high = stage.recorder.run.recording.cycles.held
    assert (low, high) == pytest.approx((200.0, 1800.0), abs=8.0)
    low, high = shown(stage).commanded
    assert (low, high) == pytest.approx((1000 - 800 / 0.95, 1000 + 800 / 0.95), abs=8.0)


def test_a_trim_that_comes_too_late_ends_nothing():
    """The wave may be over when it is told to be larger."""
    stage = programme(HELD)
    stage.frame.gain, stage.frame.refuses_trim = 0.95, True
    stage.run(20)
    assert shown(stage).commanded is not None
    assert (stage.frame.motion, the_run(stage).state) == ("SINE", RunState.RECORDING)
    stage.run(40)
    assert the_run(stage).why == "The actuator has done its part"


def test_what_is_commanded_stays_within_its_limits():
    stage = programme(HELD)
    stage.frame.gain = 0.7
    stage.run(30)
    assert shown(stage).commanded == pytest.approx((40.0, 1960.0))


def test_the_size_is_left_to_the_device_where_nobody_asks():
    stage = programme(HELD.model_copy(update={"held_within": 0.0}))
    stage.frame.gain = 0.95
    stage.run(20)
    assert shown(stage).commanded is None
    assert stage.frame.swing[:2] == (200.0, 1800.0)


def test_travel_goes_in_steps_too():
    sweep = TravelSweepLeg(
        from_m=0.0, to_m=1e-3, steps=3, speed_m_s=1e-3, settle_s=0.0, average_s=0.5
    )
    assert sweep.sentence == "0 mm to 1 mm in steps, 3 averages of 0.5 s."
    assert sweep.values == [0.0, 5e-4, 1e-3]
    arrived = LegProgress(has_arrived=True, arrived_s=0.6, step=1)
    assert (sweep.ends_step(arrived), sweep.is_over(arrived)) == ("0.5 mm", False)
