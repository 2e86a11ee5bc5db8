"""The rig against circuit theory and its own material data."""

from itertools import pairwise

import numpy as np
import pytest
from yoke_rig.amplifier import SHUNT, Amplifier
from yoke_rig.converter import FULL_COUNTS
from yoke_rig.coupon import Coupon, Material
from yoke_rig.frame import Crosshead, Motion
from yoke_rig.network import Cable, full_bridge_ratio, quarter_bridge_ratio
from yoke_rig.world import CouponWorld

PERFECT = Cable(0.0)


def test_quarter_bridge_equals_its_closed_form():
    x = np.linspace(-0.05, 0.05, 11)
    found = quarter_bridge_ratio(350 * (1 + x), 350, PERFECT)
    assert found == pytest.approx(x / 4 / (1 + x / 2), abs=1e-8)


def test_three_wires_cancel_the_lead_but_cost_sensitivity():
    x = np.array([0.0, 1e-3])
    zero, strained = quarter_bridge_ratio(350 * (1 + x), 350, Cable(3.5))
    assert zero == pytest.approx(0, abs=1e-9)
    assert strained == pytest.approx(1e-3 / 4 / 1.01, rel=1e-3)


def test_sense_wires_take_the_lead_out_of_a_full_bridge():
    arms = 350 * np.array([[1.001, 0.999, 1.001, 0.999]])
    assert full_bridge_ratio(arms, Cable(10), sensed=True) == pytest.approx(1e-3, rel=1e-9)
    assert full_bridge_ratio(arms, Cable(10), sensed=False) == pytest.approx(
        1e-3 * 350 / 370, rel=1e-6
    )


def test_shunt_steps_by_its_closed_form():
    arms = np.full((1, 4), 350.0)
    step = full_bridge_ratio(arms, PERFECT, True, SHUNT)
    assert step == pytest.approx(350 / (4 * SHUNT + 2 * 350), rel=1e-6)


def test_coupon_yields_hardens_necks_and_breaks():
    material = Material()
    coupon = Coupon(material)
    force, strain = coupon.pull(np.linspace(0, 10e-3, 20_000))
    stress = force / (coupon.width * coupon.thickness)
    assert stress.max() == pytest.approx(material.strength, rel=1e-4)
    at_proof = np.interp(material.proof / material.modulus + 0.002, strain[:4000], stress[:4000])
    assert at_proof == pytest.approx(material.proof, rel=1e-3)
    assert coupon.broken
    assert force[-1] == 0


def test_coupon_unloads_elastically_and_keeps_its_set():
    coupon = Coupon(Material())
    loaded, strain = coupon.pull(np.array([2e-3]))
    force, rest = coupon.pull(np.array([2e-3 - 0.1e-3, 0.0]))
    elastic = (loaded[0] - force[0]) / (69e9 * 37.5e-6)
    assert strain[0] - rest[0] == pytest.approx(elastic, rel=0.01)
    assert force[1] == 0
    assert rest[1] > 0.01


def test_crosshead_ramps_trips_and_returns():
    head = Crosshead()
    head.ramp(1e-3, 2e-3)
    assert head.advance(0.1, 5) == pytest.approx([1e-4, 2e-4, 3e-4, 4e-4, 5e-4])
    head.trip_if_over(30e3)
    assert head.motion is Motion.TRIPPED
    head.go_home()
    head.advance(0.1, 10)
    assert (head.position, head.motion) == (0.0, Motion.HOLD)
    with pytest.raises(ValueError, match="travel"):
        head.ramp(1e-3, 1.0)


def played(table, *how):
    head = Crosshead(controls_force=True, force=50.0)
    head.take(table)
    head.play(*how)
    return head, head.advance_force(0.1, 60)


def test_a_table_is_played_from_where_the_force_was_and_stays_at_its_end():
    head, forces = played([100.0, 300.0, 200.0], 2.0, 1, -1.0)
    assert forces[4] == pytest.approx((50 + 100) / 2)  # half a second on its way to the first
    at = np.arange(1, 61) * 0.1 - 1.0
    expected = np.interp(at, [0.0, 0.5, 1.0], [100.0, 300.0, 200.0])
    np.testing.assert_allclose(forces[10:], expected[10:])
    assert (head.motion, head.cause, head.keeps_force) == (Motion.HOLD, "arrived", True)


def test_rounds_of_a_table_follow_each_other_and_it_may_begin_within():
    _, forces = played([0.0, 400.0], 1.0, 3, 1.0)
    at = np.arange(1, 61) * 0.1 + 1.0
    expected = np.interp(np.minimum(at, 5.0), np.arange(6), [0.0, 400.0] * 3)
    np.testing.assert_allclose(forces[10:], expected[10:], atol=1e-9)


@pytest.mark.parametrize(
    ("table", "how", "word"),
    [
        ([0.0], (1.0, 1, 0.0), "no table"),
        ([0.0, 30e3], (1.0, 1, 0.0), "force limit"),
        ([0.0, 2e3], (100.0, 1, 0.0), "a jump"),
        ([0.0, 500.0, 1500.0], (90.0, 2, 0.0), "a jump"),
        ([0.0, 1.0], (0.0, 1, 0.0), "rate"),
    ],
)
def test_a_table_that_cannot_be_played_is_refused(table, how, word):
    with pytest.raises(ValueError, match=word):
        played(table, *how)


def test_a_frame_that_controls_its_travel_plays_nothing():
    head = Crosshead()
    head.take([0.0, 1.0])
    with pytest.raises(ValueError, match="travel only"):
        head.play(1.0, 1, 0.0)


STEPS = 50  # of the world in one block


def pulled(seed=7, blocks=120, **options):
    world, amp = CouponWorld(seed=seed), Amplifier(**options)
    amp.next_block(world.advance(STEPS))
    world.crosshead.ramp(1e-3, 12e-3)
    return amp, [amp.next_block(world.advance(STEPS)) for _ in range(blocks)]


def test_same_seed_same_counts():
    one, two = (np.concatenate([b.counts for b in pulled(blocks=5)[1]]) for _ in range(2))
    np.testing.assert_array_equal(one, two)


def test_gauge_fails_open_at_large_strain_and_free_inputs_are_clipped():
    _, blocks = pulled()
    assert (blocks[0].counts[:, 4] == FULL_COUNTS).all()
    assert (np.abs(blocks[-1].counts[:, 2]) >= FULL_COUNTS).all()


def test_blocks_follow_on_without_holes_in_device_time():
    _, blocks = pulled(blocks=30)
    for before, after in pairwise(blocks):
        assert after.sequence == before.sequence + 1
        span = len(before.counts) / before.rate * 1e9
        assert after.time_ns - before.time_ns == pytest.approx(span, abs=2)


def test_memory_holds_a_minute_and_a_new_rate_begins_anew():
    amp, _ = pulled(blocks=700)
    assert len(amp.memory) == 600
    assert [b.sequence for b in amp.again(650, 652)] == [650, 651, 652]
    assert amp.again(0, 5) == []
    amp.set_rate(2000)
    assert (amp.acquisition, amp.sequence, len(amp.memory)) == (2, 0, 0)


def test_the_clock_drifts_as_told():
    _, blocks = pulled(blocks=50, drift_ppm=500, rate=10_000)
    samples = sum(len(b.counts) for b in blocks)
    assert samples == pytest.approx(50_000 * 1.0005, abs=1)
