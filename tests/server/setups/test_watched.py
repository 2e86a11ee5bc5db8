"""What stop conditions can look at, and why they cannot look at the rest."""

import numpy as np
import pytest
from yoke_core.errors import SignalError
from yoke_core.streaming.block import BlockSummary, summarise_block
from yoke_server.kinds.computed import ComputedChannel
from yoke_server.kinds.steps.filters import HighPass, LowPass
from yoke_server.setups.watched import WatchedSetup

from tests.simulation.stage import two_devices
from tests.simulation.virtual import RATE_HZ

RAIL = 1 << 20
FULL_SCALE = np.array([1.0, 1.0], np.float32)  # V/V


def watched(*formulas, steps=(), only=None):
    """Force and extension on A1, a gauge on A2, with computed channels c0, c1, … of (text, unit).

    steps : of the force's reading
    only : names of the channels that are recorded
    """
    setup = two_devices()
    force, clip, gauge = (f"{{{c.key}}}" for c in setup.channels)
    names = {"force": force, "clip": clip, "gauge": gauge}
    computed = [
        ComputedChannel(key=f"c{i}", name=f"C{i}", unit=unit, decimals=2, formula=text % names)
        for i, (text, unit) in enumerate(formulas)
    ]
    first, *rest = setup.channels
    channels = [first.model_copy(update={"steps": list(steps)}), *rest]
    kept = [c for c in channels if only is None or c.name in only]
    return WatchedSetup(setup.model_copy(update={"computed": computed, "channels": kept}))


def block(force, clipped=False) -> BlockSummary:
    """Samples of A1 in which the force's signal (V/V) is as given, and the clip rests."""
    counts = np.zeros((len(force), 2), np.int32)
    counts[:, 0] = np.round(np.asarray(force) * RAIL)
    if clipped:
        counts[-1, 1] = RAIL
    return summarise_block(counts, FULL_SCALE, RAIL, 5)


def key_of(setup: WatchedSetup, quantity: str) -> str:
    channel = setup.channel(quantity)
    assert channel is not None
    return channel.key


def test_a_computed_channel_is_watched_in_each_sample():
    setup = watched(("2 * %(force)s", "kN"))
    plain = setup.watched(key_of(setup, "force")).look(block([1e-4, 3e-4, 2e-4]), True)
    twice = setup.watched("c0").look(block([1e-4, 3e-4, 2e-4]), True)
    assert twice.samples == pytest.approx(2 * plain.samples)
    assert (twice.lowest, twice.highest) == (twice.samples[0], twice.samples[1])
    assert not twice.is_lost


def test_a_sample_at_the_rail_of_any_channel_that_it_needs_is_told():
    setup = watched(("%(force)s / 2 mm * %(clip)s", "kN"), ("2 * %(force)s", "kN"))
    assert setup.watched("c0").look(block([0.0] * 5, clipped=True), True).clipped
    assert not setup.watched("c1").look(block([0.0] * 5, clipped=True), True).clipped


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("formula", "only", "why"),
    [
        ("mean(%(force)s, last 2 s)", None, "C0 needs 2 s until it gives a reading"),
        ("%(force)s * %(gauge)s", None, "C0 is computed from A1 and A2, and is known too"),
        ("lowpass(%(force)s, to 10 kHz, order 2)", None, "C0 cannot be watched. "),
        ("%(gauge)s * 2", ["F", "clip"], "C0 cannot be watched. C0: "),
    ],
)
def test_what_cannot_be_watched_is_said_with_the_reason(formula, only, why):
    setup = watched((formula, "kN"), only=only)
    lack = setup.unwatchable("c0")
    assert lack is not None
    assert lack.text.startswith(why)
    assert lack.hint
    with pytest.raises(SignalError, match=why):
        setup.watched("c0")


def test_a_channel_that_is_not_recorded_cannot_be_watched():
    setup = watched(only=["clip"])
    lack = setup.unwatchable(two_devices().channels[0].key)
    assert lack is not None
    assert "not recorded" in lack.text


def test_it_is_lost_after_a_second_without_a_reading_in_blocks_of_any_size_and_found_again():
    """Dividing by zero gives no reading."""
    reading = watched(("1 kN^2 / %(force)s", "kN")).watched("c0")
    third = round(RATE_HZ * 0.4)
    looks = [reading.look(block(f), True) for f in ([0.0] * third, [0.0] * third, [0.0] * third)]
    assert [look.is_lost for look in looks] == [False, False, True]
    assert np.isnan(looks[0].lowest)
    reading.look(block([1e-4] * 3), True)
    assert not reading.look(block([1e-4] * 3), True).is_lost
    mixed = reading.look(block([1e-4] + [0.0] * round(RATE_HZ + 1) + [1e-4]), True)
    assert mixed.is_lost


def test_a_high_pass_is_not_stood_in_for_by_the_reading_ahead_of_it():
    """That has a level, which the high-pass takes off: any limit would be left at once."""
    settled = watched(steps=[LowPass(corner_hz=1.0)])
    reading = settled.watched(key_of(settled, "force"))
    assert np.isfinite(reading.look(block([1e-4] * 5), False).samples).all()
    varying = watched(steps=[HighPass(corner_hz=1.0)])
    look = varying.watched(key_of(varying, "force")).look(block([1e-4] * 5), False)
    assert np.isnan(look.samples).all()
    assert not look.is_lost
