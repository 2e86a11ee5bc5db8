"""The recorder of one bench on a virtual clock: what must be impossible (docs/safety.md)."""

import pytest
from yoke_server.bench.models import OrderState
from yoke_server.kinds.orders.measuring import CheckShunts, MeasureAtRest
from yoke_server.kinds.orders.runs import ReleaseStop, ReturnHome, StartRun
from yoke_server.live.protocol import Phase
from yoke_server.record.models import RunState
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.model.phases import FOLLOWS, OF_BENCHES, TAKEN

from tests.recorder.conftest import (
    CHANNELS,
    answer_of,
    is_whole,
    state_of,
    stored,
    stream_of,
    the_run,
)
from tests.simulation.stage import Stage
from tests.simulation.virtual import BLOCK_S


def pulling(stage):
    """A pull that is well under way."""
    key = stage.start_order()
    stage.run(5)
    assert (stage.recorder.context.phase, stage.frame.motion) == (Phase.RECORDING, "RAMP")
    return key


def until_it_has_begun(stage):
    for _ in range(500):
        if stage.server.runs:
            return
        stage.run(0.01)
    raise AssertionError("no run has begun")


def test_a_pull_ends_when_the_force_falls(stage):
    key = pulling(stage)
    stage.force = 100
    stage.run(0.5)
    assert stage.frame.motion == "HOLD"
    stage.run(2)
    run = the_run(stage)
    assert (run.state, run.why) == (RunState.KEPT, "The force fell by 40 %")
    assert state_of(stage, key) == OrderState.DONE
    for label in ("A1", "A2"):
        assert is_whole(stored(stage, label))


def test_screens_look_anew_where_the_preflight_list_reads_something_else(stage):
    show = stage.process.publisher
    before = show.told
    stage.start_order(pull=False)
    stage.run(3)
    assert stage.recorder.context.phase is Phase.RECORDING
    assert show.told == before  # the run's own news say that it began
    stage.stop()
    stage.run(3)
    assert show.told == before
    pulling(stage)
    assert show.told > before  # not home any more


@pytest.mark.parametrize("emergency", [True, False], ids=["emergency", "stop"])
@pytest.mark.parametrize("after", [0.0, 0.01, 0.05, 0.1, 0.2, 0.3, 0.5, 0.75])
def test_what_was_stopped_before_its_first_block_never_starts(stage, emergency, after):
    key = stage.start_order()
    stage.run(after)
    stage.stop(emergency=emergency)
    for _ in range(500):
        stage.run(0.02)
        assert not stage.motions or stage.frame.motion == "HOLD" or after >= 0.3
    assert stage.frame.motion == "HOLD"
    assert stage.recorder.context.phase is Phase.IDLE
    assert not stage.server.open_runs()
    assert state_of(stage, key) in (OrderState.REFUSED, OrderState.DONE)


@pytest.mark.parametrize("emergency", [True, False], ids=["emergency", "stop"])
def test_what_was_requested_before_a_stop_never_starts_however_late_it_is_heard(stage, emergency):
    """Somebody's lock on the setup held the start up; the stop was given meanwhile."""
    requested_at = stage.server.utc()
    stage.run(0.5)
    stage.stop(emergency=emergency)
    stage.run(2)
    revision = stage.revision()
    key = stage.order_as_of(requested_at, "start", revision=revision, pull=True, operator=None)
    stage.run(4)
    assert stage.motions == []
    assert state_of(stage, key) in (OrderState.REFUSED, OrderState.DONE)
    assert not stage.server.open_runs()


def test_nothing_moves_after_an_emergency_stop_until_it_is_released(stage):
    pulling(stage)
    stop = stage.emergency()
    stage.run(1)
    assert stage.frame.motion == "HOLD"
    assert stage.server.stops[stop].confirmed
    home = stage.order("return")
    stage.run(1)
    assert "emergency stop is in force" in answer_of(stage, home)["title"]
    stage.crash()  # a fresh recorder knows of it
    stage.start()
    stage.run(3)
    start = stage.start_order()
    stage.run(1)
    assert state_of(stage, start) == OrderState.REFUSED
    release = stage.order("release")
    stage.run(1)
    assert state_of(stage, release) == OrderState.DONE
    home = stage.order("return")
    stage.run(1)
    assert state_of(stage, home) == OrderState.DONE
    assert [motion for _, motion, _ in stage.motions] == ["RAMP", "RETURN"]


def test_a_release_that_was_asked_for_before_a_stop_releases_nothing(stage):
    stage.emergency()
    stage.run(1)
    before = stage.server.utc()
    stage.run(1)
    stage.emergency()
    stage.run(1)
    release = stage.order_as_of(before, "release")
    stage.run(1)
    assert "given meanwhile" in answer_of(stage, release)["title"]
    assert stage.recorder.context.actuators.permits.latch


@pytest.mark.parametrize("offset_s", [8.0, -8.0])
def test_a_stop_never_comes_too_late_whatever_the_clocks_show(stage, offset_s):
    stage.server.clock_offset_s = offset_s
    key = stage.start_order()
    stage.run(4)
    assert state_of(stage, key) == OrderState.DONE
    assert stage.frame.motion == "RAMP"
    stop = stage.emergency()
    stage.run(0.5)
    assert stage.frame.motion == "HOLD"
    stage.run(1)
    assert stage.server.stops[stop].confirmed


@pytest.mark.parametrize("fault", ["read_only", "full"])
def test_a_database_that_takes_nothing_stops_what_moves_and_hears_a_stop(stage, fault):
    pulling(stage)
    setattr(stage.server, fault, True)
    stop = stage.emergency()
    stage.run(0.5)
    assert stage.frame.motion == "HOLD"
    setattr(stage.server, fault, False)
    stage.run(8)
    assert stage.server.stops[stop].confirmed  # the recorder wrote it down, late
    assert the_run(stage).why == "Emergency stop"


@pytest.mark.parametrize("fault", ["read_only", "full", "hanging", "away"])
def test_nothing_moves_on_while_the_database_takes_nothing(stage, fault):
    pulling(stage)
    setattr(stage.server, fault, True)
    stage.run(7.5)
    assert stage.frame.motion == "HOLD"


def test_an_order_that_was_given_up_is_not_carried_out_when_the_cable_comes_back(stage):
    stage.devices["A2"].reachable = False
    key = stage.start_order()
    stage.run(12)  # A2 never confirms; the web has given up
    assert state_of(stage, key) == OrderState.REFUSED
    stage.devices["A2"].reachable = True
    stage.run(10)
    assert not stage.server.runs
    assert stage.frame.motion == "HOLD"


def test_an_order_whose_database_was_away_too_long_begins_nothing(stage):
    key = stage.start_order()
    stage.run(0.1)
    stage.server.away = True
    stage.run(12)
    stage.server.away = False
    stage.run(5)
    assert not stage.server.runs
    assert state_of(stage, key) == OrderState.REFUSED
    assert stage.frame.motion == "HOLD"


def test_a_run_whose_beginning_was_answered_too_late_moves_nothing(stage):
    """The run is in the database, the answer was lost, and the order is past meanwhile."""
    stage.start_order()
    for _ in range(500):
        arming = stage.recorder.context.phase in (Phase.ARMING, Phase.BEGINNING)
        stage.server.lose_answers = int(arming)
        if stage.server.runs:
            break
        stage.run(0.01)
    stage.server.lose_answers = 0
    stage.server.away = True
    stage.run(9)
    stage.server.away = False
    stage.run(4)
    assert stage.motions == []
    assert the_run(stage).state == RunState.INTERRUPTED
    assert "The actuator did not move" in the_run(stage).why


def amplifier_restarts(stage):
    stage.devices["A1"].restart()


def amplifier_begins_anew(stage):
    stage.devices["A1"].begin_anew()


def devices_stay_away(stage):
    for device in stage.devices.values():
        device.reachable = False


def samples_come_late(stage):
    stage.devices["A1"].late_s = 1.5


def samples_stop_in_the_middle(stage):
    stage.devices["A1"].deaf = True
    stage.devices["A1"].losing = 1


def database_stays_away(stage):
    stage.server.away = True


def recorder_is_killed(stage):
    stage.crash()


def recorder_hangs(stage):
    stage.process.hung = True


def samples_are_refused(stage):
    stage.server.refused_runs.add(1)


def frame_cable_is_cut(stage):
    stage.frame.reachable = False


def frame_refuses_to_stop(stage):
    stage.frame.refuses_stop = True
    stage.stop()


def frame_lies(stage):
    stage.frame.lies = True
    stage.stop()


def frame_says_nonsense(stage):
    stage.frame.nan = True


def frame_falls_silent(stage):
    stage.frame.mute = True


@pytest.mark.parametrize(
    "fault",
    [
        amplifier_restarts,
        amplifier_begins_anew,
        devices_stay_away,
        samples_come_late,
        samples_stop_in_the_middle,
        database_stays_away,
        recorder_is_killed,
        recorder_hangs,
        samples_are_refused,
        frame_cable_is_cut,
        frame_refuses_to_stop,
        frame_lies,
        frame_says_nonsense,
        frame_falls_silent,
    ],
)
def test_whatever_ends_a_run_or_hides_it_stops_the_actuator(stage, fault):
    pulling(stage)
    fault(stage)
    for _ in range(70):  # seven seconds
        if stage.frame.motion == "HOLD":
            break
        stage.run(0.1)
    assert stage.frame.motion == "HOLD"
    for name in ("refuses_stop", "lies", "nan", "mute"):
        setattr(stage.frame, name, False)
    stage.frame.reachable = True
    stage.run(8)
    assert stage.frame.motion == "HOLD"


def test_a_full_queue_ends_the_run_and_what_it_held_is_written_later():
    stage = Stage(queue_bytes=6000)
    stage.run(3)
    pulling(stage)
    stage.server.away = True
    stage.run(15)
    assert stage.recorder.context.phase is Phase.CLOSING
    stage.server.away = False
    stage.run(5)
    run = the_run(stage)
    assert run.state == RunState.INTERRUPTED
    assert "until the memory was full" in run.why
    assert len(stored(stage)) > 30
    assert stage.recorder.context.phase is Phase.IDLE


def test_the_drop_is_seen_in_a_block_that_was_lost_and_sent_again(stage):
    pulling(stage)
    stage.devices["A1"].losing = 1
    stage.force = 100
    stage.run(BLOCK_S)
    stage.force = None  # only the block that was lost has the drop
    stage.run(1.2)
    assert stage.frame.motion == "HOLD"
    stage.run(2)
    assert the_run(stage).why == "The force fell by 40 %"


def test_devices_of_a_run_are_read_at_once_until_it_ends_whatever_setup_comes(stage):
    pulling(stage)
    ports = [d.port for d in stage.devices.values()]
    none = events.SetupLoaded(None)
    stage.recorder.handle(none)
    assert all(p.is_streaming for p in ports)
    stage.stop()
    stage.run(2)
    stage.recorder.handle(none)
    assert not any(p.is_streaming for p in ports)
    stage.recorder.handle(events.SetupLoaded(stage.server.setup))
    assert all(p.is_streaming for p in ports)


def test_blocks_held_behind_a_gap_are_stored_at_a_stop_and_the_gap_shows(stage):
    stage.start_order(pull=False)
    stage.run(3)
    device = stage.devices["A1"]
    device.deaf, device.losing = True, 2  # it no longer has them
    stage.run(2.5)
    last = device.sequence - 1
    stage.stop()
    stage.run(3)
    found = stored(stage)
    assert found[-1] >= last
    segments = stream_of(stage).segments
    assert [(s[2], s[7]) for s in segments] == [("start", 0), ("gap", 2)]


def test_a_refill_that_arrives_slowly_is_not_given_up(stage):
    stage.start_order(pull=False)
    stage.run(3)
    device = stage.devices["A1"]
    device.losing, device.deaf = 40, True
    stage.run(8.5)
    again = type(device).again
    for _ in range(8):  # five blocks each second and a half: over ten seconds in all
        first = stage.recorder.run.recording.tracks["A1"].line._order.next
        device.deaf = False
        again(device, first, first + 4)
        device.deaf = True
        stage.run(1.5)
    device.deaf = False
    stage.stop()
    stage.run(5)
    assert is_whole(stored(stage))


def test_one_device_away_the_others_go_on_and_what_it_kept_comes_back(stage):
    pulling(stage)
    stage.devices["A2"].reachable = False
    before = len(stored(stage))
    stage.run(20)
    assert len(stored(stage)) >= before + 90
    assert stage.frame.motion == "RAMP"  # A2 watches nothing
    stage.devices["A2"].reachable = True
    stage.run(6)
    stage.stop()
    stage.run(3)
    for label in ("A1", "A2"):
        assert is_whole(stored(stage, label))


def test_a_run_that_was_left_open_is_taken_up_and_nothing_moves(stage):
    pulling(stage)
    stage.crash()
    stage.run(5)
    stage.start()
    stage.run(8)
    assert stage.recorder.context.phase is Phase.RECORDING
    assert stage.frame.motion == "HOLD"
    stage.stop()
    stage.run(3)
    assert is_whole(stored(stage))
    assert the_run(stage).state == RunState.KEPT


def test_settings_are_not_sent_in_the_middle_of_a_run_that_is_taken_up(stage):
    pulling(stage)
    sent = stage.devices["A1"].settings
    stage.crash()
    stage.devices["A1"].settings = None
    stage.start()
    stage.run(4)
    assert stage.devices["A1"].settings is None and sent is not None


def test_a_run_that_was_killed_as_it_began_has_its_beginning(stage):
    stage.start_order(pull=False)
    until_it_has_begun(stage)
    stage.crash()
    (place,) = {s.place.sequence for s in stage.server.streams.values() if s.label == "A1"}
    stage.run(6)
    stage.start()
    stage.run(4)
    stage.stop()
    stage.run(3)
    assert stored(stage)[0] == place
    assert is_whole(stored(stage))


def test_what_is_missing_at_the_beginning_shows(stage):
    stage.start_order(pull=False)
    until_it_has_begun(stage)
    stage.crash()
    place = next(s.place for s in stage.server.streams.values() if s.label == "A1")
    stage.run(6)
    for sequence in range(place.sequence + 10):
        stage.devices["A1"].memory.pop(sequence, None)  # the device no longer has them
    stage.start()
    stage.run(9)
    stage.stop()
    stage.run(3)
    assert stored(stage)[0] == place.sequence + 10
    assert stream_of(stage).segments[0][2:3] + stream_of(stage).segments[0][7:] == ("start", 10)


def test_a_run_that_had_ended_is_not_recorded_on_by_the_next_recorder(stage):
    """Its end is not in the database when the recorder is killed, a shunt check under way."""
    pulling(stage)
    stage.force = 100
    stage.server.locked_until["run 1"] = stage.clock.now + 6
    stage.run(2)  # what ended it is stored, and its end is not
    shunt = stage.order("shunt", channels=CHANNELS)
    stage.run(1)
    assert answer_of(stage, shunt)["title"] == "The last run is being closed."
    stage.crash()
    stage.run(4)
    stage.start()
    stage.run(4)
    run = the_run(stage)
    assert (run.state, run.why) == (RunState.KEPT, "The force fell by 40 %")
    assert stage.recorder.context.phase is Phase.IDLE


def test_a_run_that_cannot_be_read_is_closed_and_the_bench_goes_on(stage):
    pulling(stage)
    stage.crash()
    stage.server.damaged_runs.add(1)
    stage.start()
    stage.run(7)
    assert the_run(stage).state == RunState.INTERRUPTED
    assert "cannot be read" in the_run(stage).why
    home = stage.order("return")
    stage.run(2)
    assert state_of(stage, home) == OrderState.DONE
    start = stage.start_order()
    stage.run(2)
    assert state_of(stage, start) == OrderState.DONE


def test_a_server_that_loses_what_it_had_not_flushed_gets_it_again(stage):
    pulling(stage)
    stage.server.stalled_flush = True  # its own process that flushes is held up
    stage.run(2.5)
    stage.server.crash()
    stage.run(2)
    stage.server.crash()
    stage.run(2)
    stage.stop()
    stage.run(3)
    assert is_whole(stored(stage))


def test_a_dead_session_of_its_own_costs_nothing(stage):
    """The server keeps the lock of a connection that broke."""
    pulling(stage)
    stage.server.keeps_dead_sessions = True
    stage.server.cut_connections()
    stage.run(3)
    assert stage.frame.motion == "RAMP"
    stage.stop()
    stage.run(3)
    assert is_whole(stored(stage))


def test_two_recorders_share_a_bench_and_one_takes_over(stage):
    stage.start_another()
    pulling(stage)
    assert len({s for s in stage.server.sign[:1]}) == 1
    stage.crash()  # the other one is there already
    stage.run(14)
    assert stage.recorder.context.phase is Phase.RECORDING
    stage.stop()
    stage.run(3)
    assert is_whole(stored(stage))


@pytest.mark.parametrize(
    ("kind", "arguments", "words"),
    [
        ("dance", {}, "knows no order"),
        ("measure", {"channels": 7}, "cannot read the order"),
        ("measure", {}, "cannot read the order"),
        ("measure", {"channels": ["nobody's"]}, "another setup"),
        ("start", {"revision": "x", "pull": False}, "cannot read the order"),
    ],
)
def test_an_order_that_makes_no_sense_is_refused_and_the_bench_goes_on(
    stage, kind, arguments, words
):
    key = stage.order(kind, **arguments)
    stage.run(1)
    assert words in answer_of(stage, key)["title"]
    assert stage.recorder.context.phase is Phase.IDLE
    measure = stage.order("measure", channels=CHANNELS)
    stage.run(5)
    assert state_of(stage, measure) == OrderState.DONE


def test_a_stop_is_confirmed_whatever_goes_on(stage):
    for before in (None, "shunt", "check"):
        if before:
            stage.order(before, channels=CHANNELS)
            stage.run(0.5)
        stop = stage.stop()
        stage.run(1)
        assert stage.server.stops[stop].confirmed
    for run in (None, 7):  # one that is over, or never was
        stop = stage.stop(run=run)
        stage.run(1)
        assert stage.server.stops[stop].confirmed


def test_a_stop_that_was_given_while_there_was_no_recorder_ends_what_was_left_open(stage):
    pulling(stage)
    stage.crash()
    stage.run(2)
    stage.stop()
    stage.run(2)
    stage.start()
    stage.run(5)
    assert (the_run(stage).state, the_run(stage).why) == (RunState.KEPT, "Stopped by hand")


def test_a_pull_begins_only_at_home_and_at_rest(stage):
    stage.frame.position_m = 6e-3
    stage.run(2)
    away = stage.start_order()
    stage.run(0.5)
    assert answer_of(stage, away)["title"] == "The actuator is not home."
    home = stage.order("return")
    stage.run(0.5)
    moving = stage.start_order()
    stage.run(0.5)
    assert answer_of(stage, moving)["title"] == "The actuator is moving."
    stage.run(3)
    assert state_of(stage, home) == OrderState.DONE
    assert stage.frame.position_m == 0
    pulling(stage)


def test_a_stop_that_does_not_reach_the_frame_is_told(stage):
    heard = []
    stage.server.sessions.add(type("Ear", (), {"hear": lambda s, *said: heard.append(said)})())
    pulling(stage)
    stage.frame.reachable = False
    key = stage.emergency()
    stage.run(2)
    ((_, (told, problem)),) = [h for h in heard if h[0] == "answers"]
    assert told == key and "frame did not confirm the stop" in problem
    assert stage.frame.motion == "HOLD"  # for want of a heartbeat


def test_two_devices_lie_in_one_time_although_their_clocks_do_not(stage):
    pulling(stage)
    stage.devices["A2"].offset_ns += 5_000_000_000  # somebody puts its clock
    stage.run(30)
    stage.stop()
    stage.run(3)
    ends = []
    for label in ("A1", "A2"):
        stream = stream_of(stage, label)
        last = stream.segments[-1]
        end_ns = last[4] + (stream.samples - last[1]) * 1e9 / last[5]
        ends.append(end_ns - stored(stage, label)[-1] * BLOCK_S * 1e9)
    assert abs(ends[0] - ends[1]) < 1_500_000  # ns; clocks are read to 50 us here
    causes = [s[2] for s in stream_of(stage, "A2").segments]
    assert causes.count("step") == 1
    assert stage.recorder.context.devices["A2"].clock.steps == 1


def test_how_a_clock_runs_is_noted_when_it_is_known_better_or_the_clock_was_put(stage):
    noted = []
    stage.process.listener.note = lambda label, **facts: noted.append((label, facts))
    stage.run(60)
    drifts = [f["drift_ppm"] for label, f in noted if label == "A2" and "drift_ppm" in f]
    assert drifts[-1] == pytest.approx(-30, abs=0.2)
    assert len(drifts) > 1
    noted.clear()
    stage.run(60)
    assert noted == []  # nothing new, no news
    stage.devices["A2"].offset_ns += 2_000_000_000
    stage.run(4)
    assert [f["clock_steps"] for label, f in noted if label == "A2"] == [1]
    stage.run(20)
    noted.clear()
    stage.devices["A2"].reachable = False
    stage.run(10)
    stage.devices["A2"].reachable = True
    stage.run(20)
    assert [f["clock_steps"] for label, f in noted if "drift_ppm" in f] == [1]


def test_a_channel_whose_scaling_is_impossible_is_named_and_the_bench_goes_on(stage):
    setup = stage.server.setup
    force, *others = setup.channels
    spoilt = force.scaling.model_copy(update={"rated_output": 0.0})
    channels = [force.model_copy(update={"scaling": spoilt}), *others]
    stage.put(setup.model_copy(update={"channels": channels}))
    stage.run(2)
    faults = stage.process.publisher.last.devices["A1"].faults
    assert list(faults) == [force.key]
    assert faults[force.key].startswith("F: ")
    assert stage.recorder.context.devices["A1"].frames.keys == [others[0].key]
    start = stage.start_order()
    stage.run(2)
    assert "cannot be watched" in answer_of(stage, start)["title"]
    stage.put(setup)
    stage.run(1)
    pulling(stage)


def test_the_table_of_phases_is_whole():
    assert set(TAKEN) == set(FOLLOWS) == set(Phase)
    assert {StartRun, ReturnHome, ReleaseStop, MeasureAtRest, CheckShunts} <= OF_BENCHES
    assert not any(StartRun in TAKEN[p] for p in Phase if p is not Phase.IDLE)
    assert TAKEN[Phase.CLOSING] == TAKEN[Phase.TAKING_UP] == frozenset()
