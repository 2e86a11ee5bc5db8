"""Where samples lie in time over a month: corrected seldom, and never far off."""

import math

import numpy as np
from yoke_core.timebase.clock import ClockModel, ClockReading
from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.record.recorder.stream.timeline import Timeline

BLOCK_S = 120  # long ones, so that a month is played in seconds
RATE = 1.0
DAY = 86400
SECOND = 10**9
AHEAD_NS = 10**15  # by which the device's clock is ahead


def device_ns(true_s):
    """A crystal that is 12 ppm fast, and 1 ppm to and fro with each day's temperature."""
    swing = DAY / math.tau * (1 - math.cos(math.tau * true_s / DAY))
    return AHEAD_NS + round(true_s * SECOND) + round((12 * true_s + swing) * 1e3)


def true_s_of(device_s):
    """When the device's clock, counted from its first sample, shows so many seconds."""
    true_s = device_s
    for _ in range(3):
        true_s -= (device_ns(true_s) - AHEAD_NS) / SECOND - device_s
    return true_s


def reading(random, true_s):
    there, back = random.exponential(100e-6, 2) + 30e-6
    asked, answered = true_s * SECOND, (true_s + there + back) * SECOND
    middle, doubt = round((asked + answered) / 2), round((answered - asked) / 2)
    return ClockReading(device_ns(true_s + there), middle, doubt)


def test_a_month_of_drift_is_a_few_hundred_segments():
    random, clock = np.random.default_rng(1), ClockModel()
    timeline = Timeline(clock)
    scale, counts = np.zeros(1, np.float32), np.zeros((BLOCK_S, 1), np.int32)
    for second in range(-20, 0):
        clock.push(reading(random, second))
    starts, worst = set(), 0.0
    for number in range(30 * DAY // BLOCK_S):
        first = number * BLOCK_S
        true_s = true_s_of(first)
        clock.push(reading(random, true_s))
        block = SampleBlock(1, number, AHEAD_NS + first * SECOND, RATE, scale, counts, False)
        segment = timeline.place(block, first, 0, round((true_s + BLOCK_S) * SECOND))
        starts.add(segment.first_sample)
        if true_s > 600:
            worst = max(worst, abs(segment.bench_of(first) - true_s * SECOND))
    assert len(starts) < 2000
    assert worst < 3e6, "ns; farther off a segment would begin anew"
