"""A device's clock against the host's: drift, doubt, steps."""

import numpy as np
import pytest
from yoke_core.timebase.clock import ClockModel, ClockReading

SECOND = 10**9
OFFSET = 10**15  # ns that the device's clock is ahead


def device_ns(true_s, ppm, put=0.0):
    return OFFSET + round((true_s * (1 + ppm * 1e-6) + put) * SECOND)


def reading(random, true_s, ppm, put=0.0, slow=1.0):
    """Asked over a line whose way there and back take unequal times."""
    there, back = (random.exponential(100e-6, 2) + 30e-6) * slow
    asked, answered = true_s * SECOND, (true_s + there + back) * SECOND
    shown = device_ns(true_s + there, ppm, put)
    return ClockReading(shown, round((asked + answered) / 2), round((answered - asked) / 2))


@pytest.mark.parametrize("ppm", [12, -30, 0, 100])
def test_an_hour_is_right_to_a_fifth_of_a_millisecond(ppm):
    random, model = np.random.default_rng(3), ClockModel()
    worst = 0.0
    for second in range(3600):
        model.push(reading(random, second, ppm))
        if second > 60:
            found = model.host_ns(device_ns(second + 0.5, ppm))
            worst = max(worst, abs(found - (second + 0.5) * SECOND))
    assert worst < 200_000
    assert model.drift_ppm == pytest.approx(ppm, abs=0.2)
    assert model.steps == 0


def test_two_devices_agree_whatever_their_clocks_do():
    random = np.random.default_rng(4)
    models = {12: ClockModel(), -30: ClockModel()}
    for second in range(600):
        for ppm, model in models.items():
            model.push(reading(random, second + random.uniform(0, 0.5), ppm))
    found = [model.host_ns(device_ns(600, ppm)) for ppm, model in models.items()]
    assert abs(found[0] - found[1]) < 100_000


def test_a_clock_that_was_put_is_a_step_and_keeps_its_drift():
    random, model = np.random.default_rng(5), ClockModel()
    for second in range(300):
        assert not model.push(reading(random, second, 25))
    seen = [model.push(reading(random, second, 25, put=2.0)) for second in range(300, 320)]
    assert (seen.index(True), model.steps) == (1, 1)
    assert model.drift_ppm == pytest.approx(25, abs=1)
    assert model.host_ns(device_ns(330, 25, put=2.0)) == pytest.approx(330 * SECOND, abs=300_000)


def test_one_answer_that_was_held_up_is_no_step():
    random, model = np.random.default_rng(6), ClockModel()
    for second in range(120):
        model.push(reading(random, second, 12, slow=1000.0 if second == 60 else 1.0))
    assert model.steps == 0
    assert model.host_ns(device_ns(121, 12)) == pytest.approx(121 * SECOND, abs=200_000)


def test_memory_and_time_do_not_grow():
    random, model = np.random.default_rng(7), ClockModel()
    for second in range(0, 40_000, 10):
        model.push(reading(random, second, 12))
    assert len(model._readings) <= 120
