"""What is measured at rest: by where in its samples a device is, never by when they arrive."""

from dataclasses import replace

import numpy as np
import pytest
from yoke_server.bench.drivers.base import AcquisitionStatus
from yoke_server.kinds.steady import most_going
from yoke_server.record.recorder.control.averaging import BLOCKS, MAX_BLOCKS
from yoke_server.record.recorder.control.bench_device import SETTLING_BLOCKS
from yoke_server.record.recorder.control.rest_measurement import PATIENCE, RestMeasurement
from yoke_server.record.recorder.stream.positioned import PositionedBlock

from tests.recorded import FULL, block
from tests.simulation.stage import two_devices

CHANNELS = two_devices().of_device("A1")
KEY = CHANNELS[0].key
SCALE, SHUNT, OHM = 8e-3, 8.7e-4, 100e3  # V/V, V/V, ohm


class Device:
    """Samples a signal, and switches its shunt at once; what it is asked it answers when told."""

    def __init__(self):
        self.sequence = 100
        self.on = False
        self.signal = 1e-4
        self.put_ns = 0
        self.asked = []

    def read_status(self, token):
        self.asked.append(("status", self.status()))

    def set_shunt(self, token, inputs, on):
        self.on = on
        self.asked.append(("switched", self.status()))

    def status(self):
        return AcquisitionStatus(1, 0, self.sequence, 1000.0)

    def next_block(self):
        value = round((self.signal + SHUNT * self.on) / SCALE * FULL)
        made = block(self.sequence, np.full((100, 8), value, np.int32))
        self.sequence += 1
        return replace(made, time_ns=made.time_ns + self.put_ns)

    def answer(self, work):
        while self.asked:
            what, status = self.asked.pop(0)
            if what == "status":
                work.measure_since("A1", status)
            else:
                work.switched("A1", OHM, status)


@pytest.fixture
def device():
    return Device()


def measured(device, shunt, change=lambda pushed: None, limit=60):
    """The answer, and how many blocks it took."""
    work = RestMeasurement("order", {"A1": CHANNELS}, {"A1": device}, 0.0, shunt=shunt)
    for pushed in range(limit):
        device.answer(work)
        if change(pushed) != "lost":
            work.push_block("A1", PositionedBlock(device.next_block(), 0, None))
        else:
            device.next_block()
        if (answer := work.go_on()) is not None:
            return answer, pushed + 1
    return None, limit


def test_a_shunt_is_off_on_and_off_again(device):
    answer, pushed = measured(device, shunt=True)
    assert pushed == 3 * BLOCKS + 1 + 2 * SETTLING_BLOCKS
    assert answer.root[KEY].step_mv_v == pytest.approx(SHUNT * 1e3, rel=1e-5)
    assert (answer.root[KEY].shunt_ohm, answer.root[KEY].clipped) == (OHM, False)
    assert not answer.root[KEY].moved
    assert not device.on


@pytest.mark.parametrize("late", range(0, 12))
def test_blocks_of_before_never_count_however_late_they_come(device, late):
    """The device had switched long before they are read."""
    work = RestMeasurement("order", {"A1": CHANNELS}, {"A1": device}, 0.0, shunt=True)
    waiting = []
    for _ in range(80):
        device.answer(work)
        waiting.append(device.next_block())
        if len(waiting) > late:
            work.push_block("A1", PositionedBlock(waiting.pop(0), 0, None))
        if (answer := work.go_on()) is not None:
            break
    assert answer.root[KEY].step_mv_v == pytest.approx(SHUNT * 1e3, rel=1e-5)


@pytest.mark.parametrize("fault", ["lost", "put"])
def test_what_is_torn_is_measured_again(device, fault):
    def change(pushed):
        if pushed == 4 and fault == "put":
            device.put_ns = 30 * 10**9
        if pushed < 4:
            device.signal = 3e-3  # which must have no part in it
        else:
            device.signal = 1e-4
        return fault if pushed == 4 else ""

    answer, pushed = measured(device, shunt=False, change=change)
    assert answer.root[KEY].mean == pytest.approx(1e-4, abs=1e-9)
    assert pushed == 5 + BLOCKS - (fault == "put")


def test_a_signal_that_moves_meanwhile_says_so_and_a_steady_drift_falls_out(device):
    def drift(by):
        def change(pushed):
            device.signal = 1e-4 + by * pushed

        return change

    fast, _ = measured(device, shunt=True, change=drift(2e-5))
    assert fast.root[KEY].moved
    slow, _ = measured(device, shunt=True, change=drift(1e-7))
    assert not slow.root[KEY].moved
    assert slow.root[KEY].step_mv_v == pytest.approx(SHUNT * 1e3, rel=1e-4)


def test_a_zero_waits_until_the_signal_has_settled(device):
    """A load that was taken off swings out: the blocks before it stands still do not count."""

    def swing(pushed):
        device.signal = 1e-4 + 1e-3 * 0.7**pushed

    answer, pushed = measured(device, shunt=False, change=swing)
    assert BLOCKS < pushed < MAX_BLOCKS
    assert answer.root[KEY].moved <= most_going(CHANNELS[0])
    assert answer.root[KEY].mean == pytest.approx(1e-4, abs=most_going(CHANNELS[0]))


def test_what_never_settles_is_given_as_it_went(device):
    def drift(pushed):
        device.signal = 1e-4 + 1e-4 * pushed

    answer, pushed = measured(device, shunt=False, change=drift)
    assert pushed == MAX_BLOCKS + 1  # the first one is of before
    assert answer.root[KEY].moved == pytest.approx(4e-4, rel=1e-3)


def test_what_is_given_up_switches_off(device):
    work = RestMeasurement("order", {"A1": CHANNELS}, {"A1": device}, 0.0, shunt=True)
    while not device.on:
        device.answer(work)
        work.push_block("A1", PositionedBlock(device.next_block(), 0, None))
        work.go_on()
    assert work.overdue(PATIENCE + 0.1)
    work.shunts_off()
    assert not device.on
