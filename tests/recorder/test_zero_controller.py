"""What is measured at rest: by settings that are in force, with the shunts off (docs/safety.md)."""

import pytest
from yoke_server.bench.models import OrderState
from yoke_server.live.protocol import Phase
from yoke_server.record.recorder.model import events

from tests.recorder.conftest import CHANNELS, answer_of, state_of


def condition(stage, **changes):
    """Put the setup on the bench with the first channel conditioned otherwise."""
    first, *others = stage.server.setup.channels
    conditioning = first.conditioning.model_copy(update=changes)
    changed = first.model_copy(update={"conditioning": conditioning})
    stage.put(stage.server.setup.model_copy(update={"channels": [changed, *others]}))


def refusing(port):
    """The port of a device that takes no settings; gives what took them."""
    configure = port.configure

    def refuse(token, settings, rate):
        problem = "the device refuses a setting: Data out of range; one of 1, 2.5, 5."
        port._answer(lambda: events.Configured("A1", token, None, problem))

    port.configure = refuse
    return configure


def test_one_thing_at_a_time(stage):
    shunt = stage.order("shunt", channels=CHANNELS)
    stage.run(1)
    assert stage.recorder.context.phase is Phase.SHUNTING
    start = stage.start_order()
    stage.run(0.5)
    assert answer_of(stage, start)["title"] == "The shunts are being checked."
    stage.run(12)
    assert state_of(stage, shunt) == OrderState.DONE
    assert not any(d.shunt for d in stage.devices.values())


@pytest.mark.parametrize("moment", [0.4, 1.4, 2.0])
def test_a_lost_link_leaves_no_shunt_on(stage, moment):
    key = stage.order("shunt", channels=CHANNELS)
    stage.run(moment)
    stage.devices["A2"].reachable = False
    stage.run(8)
    assert state_of(stage, key) == OrderState.REFUSED
    stage.devices["A2"].reachable = True
    stage.run(6)
    assert not any(d.shunt for d in stage.devices.values())
    start = stage.start_order(pull=False)
    stage.run(3)
    assert state_of(stage, start) == OrderState.DONE


def test_peaks_begin_anew_with_the_first_block_by_new_settings(stage):
    stage.force = 9000
    stage.run(2)
    figures = stage.recorder.context.devices["A1"].frames._figures
    assert figures.peaks[0, 1] > 8000
    stage.devices["A1"].restart()  # it comes back with settings of its own, until told ours
    stage.force = 100
    stage.run(6)
    assert stage.recorder.context.devices["A1"].frames._figures.peaks[0, 1] < 1000


@pytest.mark.parametrize(
    ("change", "kept"),
    [
        ({"name": "Another", "unit": "N", "decimals": 1}, True),  # shown otherwise
        ({"zero": 1e-4}, False),  # measured otherwise
    ],
)
def test_peaks_stay_as_long_as_a_channel_measures_the_same(stage, change, kept):
    stage.force = 9000
    stage.run(2)
    stage.force = 100
    first, *others = stage.server.setup.channels
    channels = [first.model_copy(update=change), *others]
    stage.put(stage.server.setup.model_copy(update={"channels": channels}))
    stage.run(2)
    peak = stage.recorder.context.devices["A1"].frames._figures.peaks[0, 1]
    assert (peak > 8000) == kept


def test_settings_are_confirmed_before_each_run(stage):
    stage.devices["A1"].settings = None  # it has forgotten them, and nobody has noticed
    start = stage.start_order(pull=False)
    stage.run(4)
    assert state_of(stage, start) == OrderState.DONE
    assert stage.devices["A1"].settings


def force_in(answer):
    """N, as a zero measured it; but for the noise of the converter."""
    return answer[CHANNELS[0]]["mean"] / 2e-3 * 25e3


def test_a_zero_counts_no_sample_of_before_its_settings(stage):
    a1 = stage.devices["A1"]
    stage.force, a1.delaying = 9000, 2  # two blocks of before, which arrive late
    stage.run(0.4)
    stage.force = 100
    condition(stage, range_mv_v=4.0)
    key = stage.order("measure", channels=CHANNELS)
    stage.run(6)
    assert force_in(answer_of(stage, key)) == pytest.approx(100, abs=0.1)
    assert answer_of(stage, key)[CHANNELS[0]]["deviation"] < 1e-9


@pytest.mark.parametrize("late_s", [0.0, 0.7])
def test_a_zero_counts_no_sample_of_before_its_order_however_late_it_comes(stage, late_s):
    stage.devices["A1"].late_s = late_s
    stage.force = 9000
    stage.run(3)
    stage.force = 100
    key = stage.order("measure", channels=CHANNELS)
    stage.run(4)
    assert force_in(answer_of(stage, key)) == pytest.approx(100, abs=0.1)


@pytest.mark.parametrize("late_s", [0.0, 0.5])
def test_a_zero_counts_no_sample_of_the_shunt_before_it(stage, late_s):
    a1 = stage.devices["A1"]
    a1.late_s = late_s
    stage.force = 0.0
    for moment in (0.0, 0.1, 0.15):  # whichever way blocks and orders meet
        stage.run(moment + 4)
        shunt = stage.order("shunt", channels=CHANNELS)
        for _ in range(400):
            if state_of(stage, shunt) == OrderState.DONE:
                break
            stage.run(0.02)
        zero = stage.order("measure", channels=CHANNELS)
        stage.run(7)
        assert force_in(answer_of(stage, zero)) == pytest.approx(0, abs=0.1)
        assert not any(d.shunt for d in stage.devices.values())
        step = answer_of(stage, shunt)[CHANNELS[0]]["step_mv_v"]
        assert step == pytest.approx(1.0, abs=1e-3)


def test_an_amplifier_that_begins_anew_ends_what_was_measured_and_gets_its_settings(stage):
    key = stage.order("measure", channels=CHANNELS)
    stage.run(0.5)
    stage.devices["A1"].begin_anew()
    stage.run(1)
    assert answer_of(stage, key)["title"] == "A1 began anew."
    stage.run(3)
    assert stage.devices["A1"].settings


@pytest.mark.parametrize("kind", ["measure", "shunt", "check"])
@pytest.mark.parametrize("waited", [0, 1])
def test_nothing_is_measured_by_settings_that_were_not_taken(stage, kind, waited):
    refusing(stage.devices["A1"].port)
    condition(stage, excitation_v=4.0)
    stage.run(waited)
    key = stage.order(kind, channels=CHANNELS)
    stage.run(1)
    title = "A1 does not take its settings: the device refuses a setting: Data out of range"
    assert answer_of(stage, key)["title"].startswith(title)


def test_an_old_refusal_ends_no_measuring_by_settings_that_were_taken_since(stage):
    device = stage.recorder.context.devices["A1"]
    old = device.asked
    condition(stage, excitation_v=2.5)
    key = stage.order("measure", channels=CHANNELS)
    stage.run(0.5)
    assert stage.recorder.context.phase is Phase.MEASURING and device.asked != old
    stage.devices["A1"].port.emit(events.Configured("A1", old, None, "Data out of range."))
    stage.run(7)
    assert state_of(stage, key) == OrderState.DONE


def test_a_setting_that_is_not_taken_is_named_and_the_bench_goes_on(stage):
    port = stage.devices["A1"].port
    configure = refusing(port)
    key = stage.start_order()
    stage.run(2)
    assert "A1 does not take its settings" in answer_of(stage, key)["title"]
    assert "one of 1, 2.5, 5" in answer_of(stage, key)["title"]
    port.configure = configure
    again = stage.start_order(pull=False)
    stage.run(3)
    assert state_of(stage, again) == OrderState.DONE
