"""The measuring module against its sensors' own laws."""

import numpy as np
import pytest
from yoke_rig.module import OHMS, VOLTS, Module
from yoke_rig.world import CouponWorld


def signals(move=0.0):
    world = CouponWorld()
    if move:
        world.crosshead.ramp(5e-3, move)
    state = world.advance(500)
    module = Module(rate=1000.0)
    return state, module.signals(state) * module.full_scale()[:, None], module


def test_a_loop_gives_twelve_milliampere_in_the_middle_of_its_span():
    _, found, _ = signals()
    assert found[0] == pytest.approx(12e-3 * 50)
    assert found[1] == pytest.approx((4e-3 + 16e-3 * 20 / 250) * 50)


def test_the_transmitter_follows_the_crosshead():
    state, found, _ = signals(move=2e-3)
    current = found[0][-1] / 50
    assert -50e-3 + (current - 4e-3) / 16e-3 * 100e-3 == pytest.approx(state.position[-1])


def test_a_thermometer_in_a_room_and_an_open_input():
    _, found, module = signals()
    assert found[4][0] == pytest.approx(108.57, abs=0.01)  # 22 degC, IEC 60751
    block = module.next_block(signals()[0])
    assert (block.counts[:, 5] >= 2**23 - 1).all()
    assert block.full_scale.tolist() == [VOLTS] * 4 + [OHMS] * 4
    assert block.counts[:, 0].mean() / 2**23 * VOLTS == pytest.approx(0.6, rel=1e-3)


def test_it_is_no_faster_than_it_says():
    with pytest.raises(ValueError, match="10 to 1000 Hz"):
        Module().set_rate(2000)
    assert np.isfinite(Module().full_scale()).all()
