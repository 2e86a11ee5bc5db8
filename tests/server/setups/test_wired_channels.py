"""What follows from a channel's rows is kept as long as they stay as they are, and no longer."""

from datetime import date

import pytest
from yoke_server.api import setup_page as queries
from yoke_server.bench.models import Device, Input
from yoke_server.kinds.inputs.grid import Grid
from yoke_server.sensors.models import Sensor
from yoke_server.setups import freezing
from yoke_server.setups.models import Balance, Channel, Setup, ShuntCalibration, Tare
from yoke_server.wire.models import SignTest, WiringCheck

FOUND = {
    "passed": True,
    "title": "All well",
    "short": "",
    "hint": "",
    "causes": [],
    "others": [],
    "parted_by": "",
    "findings": [],
}


def change(model, **fields):
    def update(setup, channel):
        plug = channel.input
        rows = {Channel: channel, Sensor: channel.sensor, Input: plug, Device: plug.device}
        model.objects.filter(pk=rows[model].pk).update(**fields)

    return update


def measured(model, **fields):
    def add(setup, channel):
        model.objects.create(setup=setup, channel_key=channel.key, **fields)

    return add


@pytest.mark.parametrize(
    "action",
    [
        change(Channel, name="F2"),
        change(Channel, polarity="turned"),
        change(Channel, grid=Grid(rosette="R1", angle=0.0)),
        change(Sensor, name="Another cell"),
        change(Sensor, cores=[{"colour": "red", "pin": 1, "function": "signal +"}]),
        change(Input, label="A1.9"),
        change(Device, serial="S-1"),
        change(Device, label="A0"),
        measured(Balance, zero=1e-5),
        measured(Tare, tare=2.0),
        measured(ShuntCalibration, expected_mv_v=1.0, measured_mv_v=1.01),
        measured(SignTest, positive=True, moved=5.0, of=""),
        measured(WiringCheck, passed=True, found=FOUND, of=""),
    ],
)
def test_every_change_of_a_row_shows_at_once(setup, action):
    def first():
        return queries.setup_out(setup.pk).channels[0], freezing.freeze_channels(setup)[0]

    before = first()
    action(setup, setup.channels.select_related("input__device", "sensor").first())
    after = first()
    assert after != before
    assert after[0].key == before[0].key
    for kept in (freezing.frozen, freezing.fact, queries.channel_out):
        kept.cache_clear()
    assert after == first()


def test_what_stays_is_not_made_anew(setup):
    queries.setup_out(setup.pk)
    made = queries.channel_out.cache_info().misses
    setup.channels.filter(name="F").update(decimals=1)
    queries.setup_out(setup.pk)
    assert queries.channel_out.cache_info().misses == made + 1


def test_a_calibration_ends_with_its_day(setup):
    Sensor.objects.filter(serial="LC-2207").update(due_on=date(2030, 5, 1))
    wired = freezing.wired_channels(setup.pk)[0]
    said = [
        queries.channel_out(wired, None, None, day).sensor.calibration_status.status
        for day in (date(2030, 5, 1), date(2030, 5, 2))
    ]
    assert said == ["soon", "overdue"]


def test_a_prepared_query_answers_for_the_number_it_is_asked(setup):
    assert freezing.setup_row(setup.pk).bench == setup.bench
    with pytest.raises(Setup.DoesNotExist):
        freezing.setup_row(setup.pk + 1)
    assert freezing.wired_channels(setup.pk + 1) == []
