"""The recorder of one bench on a virtual clock: what must be impossible (docs/safety.md)."""

import pytest
from yoke_server.bench.models import OrderState
from yoke_server.record.models import RunState
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.model.phases import FOLLOWS, KNOWN, TAKEN, Phase

from tests.recorder.conftest import CHANNELS, state_of
from tests.simulation.database import sequences_of
from tests.simulation.stage import Stage
from tests.simulation.virtual import PER_BLOCK


def pulling(stage):
    """A pull that is well under way."""
    key = stage.start_order()
    stage.run(3)
    assert (stage.recorder.context.phase, stage.frame.motion) == (Phase.RECORDING, "RAMP")
    stage.force = 5000
    stage.run(2)
    return key


def the_run(stage):
    (run,) = stage.database.runs.values()
    return run


def stored(stage, label="A1"):
    return sequences_of(stage.database.streams[the_run(stage).streams[label]])


def test_a_pull_ends_when_the_force_falls(stage):
    key = pulling(stage)
    stage.force = 100
    stage.run(0.75)
    assert stage.frame.motion == "HOLD"
    stage.run(2)
    run = the_run(stage)
    assert (run.state, run.why) == (RunState.KEPT, "The force fell by 40 %")
    assert state_of(stage, key) == OrderState.DONE
    for label in ("A1", "A2"):
        found = stored(stage, label)
        assert found == list(range(found[0], found[-1] + 1))


def test_screens_look_anew_where_the_preflight_list_reads_something_else(stage):
    show = stage.recorder.context.parts.publisher
    before = show.told
    stage.start_order(pull=False)
    stage.run(3)
    assert stage.recorder.context.phase is Phase.RECORDING
    assert show.told == before  # the run's own news say that it began
    stage.order("stop")
    stage.run(3)
    assert show.told == before
    pulling(stage)
    assert show.told > before  # not home any more


@pytest.mark.parametrize("kind", ["emergency", "stop"])
@pytest.mark.parametrize("after", [0.0, 0.25, 0.5, 0.75])
def test_what_was_stopped_before_its_first_block_never_starts(stage, kind, after):
    key = stage.start_order()
    stage.run(after)
    stage.order(kind)
    for _ in range(80):
        stage.step()
        assert stage.frame.motion == "HOLD" or stage.recorder.context.phase is Phase.RECORDING
    assert stage.frame.motion == "HOLD"
    assert stage.recorder.context.phase is Phase.IDLE
    assert all(r.state != RunState.RECORDING for r in stage.database.runs.values())
    assert state_of(stage, key) in (OrderState.REFUSED, OrderState.DONE)


def test_an_order_that_was_given_up_is_not_carried_out_when_the_cable_comes_back(stage):
    stage.devices["A2"].reachable = False
    key = stage.start_order()
    stage.run(12)  # A2 never confirms; the web has given up
    assert state_of(stage, key) == OrderState.REFUSED
    stage.devices["A2"].reachable = True
    stage.run(10)
    assert not stage.database.runs
    assert stage.frame.motion == "HOLD"


def test_an_order_whose_database_was_away_too_long_begins_nothing(stage):
    key = stage.start_order()
    stage.step()
    stage.step()
    stage.database.away = True
    stage.run(12)
    stage.database.away = False
    stage.run(5)
    assert not stage.database.runs
    assert state_of(stage, key) == OrderState.REFUSED
    assert stage.frame.motion == "HOLD"


def amplifier_restarts(stage):
    stage.devices["A1"].restart()


def devices_stay_away(stage):
    for device in stage.devices.values():
        device.reachable = False


def database_stays_away(stage):
    stage.database.away = True


def recorder_is_killed(stage):
    stage.crash()


def samples_are_refused(stage):
    stage.database.refuse_runs.add(1)


def frame_cable_is_cut(stage):
    stage.frame.reachable = False


@pytest.mark.parametrize(
    "fault",
    [
        amplifier_restarts, devices_stay_away, database_stays_away, recorder_is_killed,
        samples_are_refused, frame_cable_is_cut,
    ],
)  # fmt: skip
def test_whatever_ends_a_run_or_hides_it_stops_the_actuator(stage, fault):
    pulling(stage)
    fault(stage)
    for _ in range(28):  # seven seconds
        if stage.frame.motion == "HOLD":
            break
        stage.step()
    assert stage.frame.motion == "HOLD"
    stage.frame.reachable = True
    stage.run(8)
    assert stage.frame.motion == "HOLD"


def test_a_full_queue_ends_the_run_and_what_it_held_is_written_later():
    stage = Stage(queue_bytes=6000)
    stage.run(3)
    pulling(stage)
    stage.database.away = True
    stage.run(30)
    assert stage.recorder.context.phase is Phase.IDLE
    stage.database.away = False
    stage.run(5)
    run = the_run(stage)
    assert run.state == RunState.INTERRUPTED
    assert "until the memory was full" in run.why
    assert len(stored(stage)) > 6000 / 200 / 2


def test_the_drop_is_seen_although_a_block_is_missing(stage):
    pulling(stage)
    stage.devices["A1"].again = lambda first, last: None  # it cannot send it again
    stage.devices["A1"].losing = 1
    stage.run(0.5)
    stage.force = 100
    stage.run(1.0)
    assert stage.frame.motion == "HOLD"


def test_devices_of_a_run_are_heeded_until_it_ends_whatever_setup_comes(stage):
    pulling(stage)
    ports = [d.port for d in stage.devices.values()]
    none = events.SetupLoaded(None)
    stage.recorder.handle(none)
    assert all(p.is_streaming for p in ports)
    stage.order("emergency")
    stage.run(2)
    stage.recorder.handle(none)
    assert not any(p.is_streaming for p in ports)
    stage.recorder.handle(events.SetupLoaded(stage.setup))
    assert all(p.is_streaming for p in ports)


def test_blocks_held_behind_a_gap_are_stored_at_a_stop_and_the_gap_shows(stage):
    pulling(stage)
    device = stage.devices["A1"]
    device.again = lambda first, last: None  # it no longer has them
    device.losing = 2
    stage.run(2.5)
    last = device.sequence - 1
    stage.order("stop")
    stage.run(3)
    found = stored(stage)
    assert found[-1] >= last
    stream = stage.database.streams[the_run(stage).streams["A1"]]
    assert [(s[2], s[7]) for s in stream.segments] == [("start", 0), ("gap", 2)]


def test_a_refill_that_arrives_slowly_is_not_given_up(stage):
    pulling(stage)
    device = stage.devices["A1"]
    device.losing = 40
    stage.run(21)
    again, device.again = device.again, lambda first, last: None
    for i in range(8):  # five blocks each second and a half: over ten seconds in all
        first = stage.recorder.run.recording.tracks["A1"].order.next
        again(first, first + 4)
        stage.run(1.5)
        assert i < 8
    device.again = again
    stage.order("stop")
    stage.run(5)
    found = stored(stage)
    assert found == list(range(found[0], found[-1] + 1))


def test_one_device_away_the_others_go_on_and_what_it_kept_comes_back(stage):
    pulling(stage)
    stage.devices["A2"].reachable = False
    before = len(stored(stage))
    stage.run(20)
    assert len(stored(stage)) >= before + 38
    assert stage.frame.motion == "RAMP"  # A2 watches nothing
    stage.devices["A2"].reachable = True
    stage.run(6)
    stage.order("stop")
    stage.run(3)
    for label in ("A1", "A2"):
        found = stored(stage, label)
        assert found == list(range(found[0], found[-1] + 1))


def test_a_run_that_was_left_open_is_taken_up_and_nothing_moves(stage):
    pulling(stage)
    stage.crash()
    stage.run(5)
    stage.start()
    stage.run(8)
    assert stage.recorder.context.phase is Phase.RECORDING
    assert stage.frame.motion == "HOLD"
    stage.order("stop")
    stage.run(3)
    found = stored(stage)
    assert found == list(range(found[0], found[-1] + 1))
    assert the_run(stage).state == RunState.KEPT


def test_a_server_that_loses_its_last_half_second_gets_it_again(stage):
    pulling(stage)
    stage.database.crash()
    stage.run(2)
    stage.order("stop")
    stage.run(3)
    found = stored(stage)
    assert found == list(range(found[0], found[-1] + 1))


@pytest.mark.parametrize(
    ("kind", "arguments", "words"),
    [
        ("dance", {}, "knows no order"),
        ("measure", {"channels": 7}, "makes no sense"),
        ("measure", {}, "makes no sense"),
        ("measure", {"channels": ["nobody's"]}, "another setup"),
        ("stop", {}, "No run is being recorded"),
        ("stop", {"run": "seven"}, "No run is being recorded"),
        ("start", {"revision": "x", "pull": False}, "makes no sense"),
    ],
)
def test_an_order_that_makes_no_sense_is_refused_and_the_bench_goes_on(
    stage, kind, arguments, words
):
    key = stage.order(kind, **arguments)
    stage.run(1)
    assert words in stage.orders[key].answer["title"]
    assert stage.recorder.context.phase is Phase.IDLE
    measure = stage.order("measure", channels=CHANNELS)
    stage.run(5)
    assert state_of(stage, measure) == OrderState.DONE


def test_a_pull_begins_only_at_home_and_at_rest(stage):
    stage.frame.position_m = 3e-3
    stage.run(1)
    away = stage.start_order()
    stage.run(1)
    assert stage.orders[away].answer["title"] == "The actuator is not home."
    home = stage.order("return")
    stage.run(0.5)
    moving = stage.start_order()
    stage.run(0.5)
    assert stage.orders[moving].answer["title"] == "The actuator is moving."
    stage.run(3)
    assert state_of(stage, home) == OrderState.DONE
    assert stage.frame.position_m == 0
    pulling(stage)


def test_an_emergency_that_does_not_reach_the_frame_is_told(stage):
    pulling(stage)
    stage.frame.reachable = False
    key = stage.order("emergency")
    stage.run(2)
    assert "The device did not do it" in stage.orders[key].answer["title"]
    assert stage.frame.motion == "HOLD"  # for want of a heartbeat


def test_nothing_moves_when_the_runner_hangs(stage):
    """The port's own thread goes on; without the runner's sign of life it stops the frame."""
    pulling(stage)
    for _ in range(12):
        stage.clock.now += 0.1
        stage.frame.pass_time(0.1)
        stage.actuator.step()  # the runner's tick is not called
    assert stage.frame.motion == "HOLD"


def test_two_devices_lie_in_one_time_although_their_clocks_do_not(stage):
    pulling(stage)
    stage.devices["A2"].offset_ns += 5_000_000_000  # somebody puts its clock
    stage.run(30)
    stage.order("stop")
    stage.run(3)
    run = the_run(stage)
    ends = []
    for label in ("A1", "A2"):
        stream = stage.database.streams[run.streams[label]]
        last = stream.segments[-1]
        rate = last[5]
        ends.append(last[4] + (stream.samples - last[1]) * 1e9 / rate - len(stored(stage, label)))
        assert stream.samples % PER_BLOCK == 0
    assert abs(ends[0] - ends[1]) < 1_500_000  # ns; clocks are read to 50 us here
    causes = [s[2] for s in stage.database.streams[run.streams["A2"]].segments]
    assert causes.count("step") == 1
    assert stage.recorder.context.devices["A2"].clock.steps == 1


def test_how_a_clock_runs_is_noted_when_it_is_known_better_or_the_clock_was_put(stage):
    noted = []
    stage.listener.note = lambda label, **facts: noted.append((label, facts))
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


def test_the_table_of_phases_is_whole():
    assert set(TAKEN) == set(FOLLOWS) == set(Phase)
    assert all("emergency" in orders for orders in TAKEN.values())
    assert {"start", "stop", "emergency", "return", "measure", "shunt"} <= KNOWN
    assert not any("start" in TAKEN[p] for p in Phase if p is not Phase.IDLE)
