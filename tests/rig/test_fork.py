"""The fork bench: what its actuator does, what the fork and its gauges feel."""

import numpy as np
import pytest
from yoke_rig.fork import CROWN_ANGLE, CROWN_PER_N, CROWN_SHARE, Fork
from yoke_rig.network import Cable, half_bridge_ratio, quarter_bridge_ratio
from yoke_rig.world import ForkWorld


def driven(world, seconds):
    parts = [world.advance(50) for _ in range(round(seconds * 10))]
    return np.concatenate([p.force for p in parts]), np.concatenate([p.position for p in parts])


def test_a_force_ramp_goes_to_its_peak_and_back_to_none():
    world = ForkWorld()
    world.crosshead.load(1200.0, 2400.0)
    force, position = driven(world, 5)
    assert force.max() == pytest.approx(2400, abs=3)
    assert abs(force[-1]) < 20
    assert (world.crosshead.motion, world.crosshead.cause) == ("HOLD", "arrived")
    assert abs(position[-1]) < 0.05e-3  # it counts as home
    up, down = (
        np.interp(1200, f, p)
        for f, p in (
            (force[:1000], position[:1000]),
            (force[1000:2000][::-1], position[1000:2000][::-1]),
        )
    )
    assert up < down  # friction: it lags


def test_a_sine_swings_between_its_forces_until_it_is_stopped():
    world = ForkWorld()
    world.crosshead.swing(200.0, 1800.0, 6.0)
    driven(world, 3)
    force, _ = driven(world, 2)
    assert (force.min(), force.max()) == (pytest.approx(200, abs=3), pytest.approx(1800, abs=3))
    rising = np.count_nonzero((force[:-1] < 1000) & (force[1:] >= 1000))
    assert rising == pytest.approx(12, abs=1)
    world.crosshead.stop()
    force, position = driven(world, 1)
    assert np.ptp(position) == 0


@pytest.mark.parametrize(
    ("action", "why"),
    [
        (lambda head: head.load(0, 100), "rate"),
        (lambda head: head.load(100, 20e3), "force limit"),
        (lambda head: head.swing(200, 100, 6), "lowest force"),
        (lambda head: head.swing(100, 200, 50), "frequency"),
    ],
)
def test_what_it_cannot_do_it_refuses(action, why):
    with pytest.raises(ValueError, match=why):
        action(ForkWorld().crosshead)


def test_the_grids_turn_with_the_principal_strains():
    found = {k: v[0] for k, v in Fork().strains(np.array([2000.0])).items()}
    first = CROWN_PER_N * 2000
    a, b, c = (found[name] for name in ("R1a", "R1b", "R1c"))
    assert a + c == pytest.approx(first * (1 + CROWN_SHARE))  # the sum does not turn
    assert np.arctan2(2 * b - a - c, a - c) / 2 == pytest.approx(CROWN_ANGLE)


def test_late_in_life_a_crack_makes_it_softer_until_it_breaks():
    fork = Fork(damage=0.99)
    fresh = Fork().bear(np.array([0.0, 1000.0]))[-1]
    assert fork.bear(np.array([0.0, 1000.0]))[-1] > 1.5 * fresh
    swings = np.tile([0.0, 1600.0], 2000)
    fork.bear(swings)
    assert fork.broken


def test_two_wires_let_the_lead_in_and_three_keep_it_out():
    still = np.array([120.0])
    assert quarter_bridge_ratio(still, 120, Cable(1.5))[0] == pytest.approx(0, abs=1e-9)
    two = quarter_bridge_ratio(still, 120, Cable(1.5), three=False)[0]
    assert two == pytest.approx(3 / 240 / 2 / (1 + 3 / 240), rel=1e-6)


def test_a_bending_pair_sees_twice_and_no_lead():
    t = 2.05 * 300e-6
    pair = half_bridge_ratio(
        np.array([350 * (1 + t)]), np.array([350 * (1 - t)]), Cable(0.77), sensed=False
    )[0]
    assert pair == pytest.approx(t / 2 / (1 + 0.77 / 350), rel=1e-6)
