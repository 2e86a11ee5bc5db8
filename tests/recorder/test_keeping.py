"""Keep rules while a run records: each equal to its whole-array twin, whatever the blocks, the
devices' order, a restart anywhere, and what was stored by then."""

import json

import numpy as np
import pytest
from hypothesis import Phase, given, settings
from hypothesis import strategies as st
from yoke_core.keeping.bursts import BurstPlan
from yoke_core.keeping.cycles import CycleCounter
from yoke_core.keeping.decimation import Decimator
from yoke_core.keeping.turns import CycleTurns
from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.kinds.chain import chain_of
from yoke_server.kinds.keep_rules.base import names_of
from yoke_server.kinds.keep_rules.bursts import Bursts, BurstUnit
from yoke_server.kinds.keep_rules.changes import ChangeStep, WhenChanged
from yoke_server.kinds.keep_rules.everything import Everything
from yoke_server.kinds.keep_rules.turning_points import TurningPoints
from yoke_server.record.envelopes import EnvelopeWriter
from yoke_server.record.recorder.model.progress import KeptStream
from yoke_server.record.recorder.model.segments import PlacedSegment
from yoke_server.record.recorder.stream.keep.instants import RowKeeper
from yoke_server.record.recorder.stream.keep.keeping import Keeping
from yoke_server.record.recorder.stream.positioned import PositionedBlock
from yoke_server.record.runs import layout_of, planes_of

from tests.simulation.stage import two_devices

FORCE = "0f3a1b7c21d9"
START, RAIL = 10**12, 2**23 - 1
RATES = {"A1": 1000.0, "A2": 400.0}
INPUTS = {"A1": 2, "A2": 1}
LATE_NS = {"A1": 0, "A2": 1_700_000}  # by which the samples of A2 lie beside those of A1
SECONDS = 3
SETUP = two_devices().model_copy(update={"rates_hz": RATES})
CHAIN = chain_of(SETUP.channels[0])


def force(t):
    """V/V: cycles of 5 Hz with something on top."""
    return 1e-3 * (np.sin(2 * np.pi * 5 * t) + 0.05 * np.sin(2 * np.pi * 61 * t))


SHAPES = {
    ("A1", 0): force,
    ("A1", 1): lambda t: 5e-4 * t,
    ("A2", 0): lambda t: 2e-4 * np.cos(3 * t),
}
# V/V to SI, so that gates can be told
GATE = float(abs(CHAIN.apply(np.array([8e-4]))[0] - CHAIN.apply(np.array([0.0]))[0]))


def times_of(label):
    count = round(SECONDS * RATES[label])
    return np.arange(count) / RATES[label] + LATE_NS[label] * 1e-9


def counts_of(label):
    t = times_of(label)
    signals = np.stack([SHAPES[label, i](t) for i in range(INPUTS[label])], axis=1)
    return np.rint(signals / 2e-3 * RAIL).astype(np.int32)


def ratios_of(label):
    scale = np.full(INPUTS[label], 2e-3, np.float32)
    return (counts_of(label) * (scale.astype(float) / RAIL)).T.astype(np.float32)


def blocks_of(label, sizes):
    """The device's samples, cut into blocks of these sizes, over and over."""
    counts, first, sequence = counts_of(label), 0, 0
    segment = PlacedSegment(0, "start", 0, START + LATE_NS[label], RATES[label], 1)
    while first < len(counts):
        part = counts[first : first + sizes[sequence % len(sizes)]]
        at = round(first * 1e9 / RATES[label])
        scale = np.full(INPUTS[label], 2e-3, np.float32)
        block = SampleBlock(1, sequence, at, RATES[label], scale, part, False, RAIL)
        yield PositionedBlock(block, first, segment)
        first, sequence = first + len(part), sequence + 1


class Store:
    """Rows as the database keeps them, and the last progress behind them."""

    def __init__(self, rules):
        self.setup = SETUP.model_copy(update={"keep_rules": rules})
        names = zip(names_of(rules), rules, strict=True)
        self.shapes = {
            (label, name): planes_of(layout_of(rule), self.setup.of_device(label))
            for name, rule in names
            for label in RATES
        }
        self.ids = {of: i for i, of in enumerate(self.shapes, start=1)}
        self.rows = {i: [] for i in self.ids.values()}
        self.progress = None

    def streams(self):
        return {of: self._stream(of) for of in self.shapes}

    def _stream(self, of):
        planes, width = self.shapes[of]
        rows = self.rows[self.ids[of]]
        stored = sum(row.block[2] for row in rows)
        chain = rows[-1].block[6] if rows else b""
        envelope = EnvelopeWriter(self.ids[of], planes)
        if rows:
            envelope.push(self.values(of).astype(f"<f{width}"))
        return KeptStream(self.ids[of], planes, width, stored, chain, envelope)

    def put(self, row):
        rows = self.rows[row.stream_id]
        assert row.first_sample == sum(r.block[2] for r in rows), "a hole, or twice"
        rows.append(row)

    def values(self, of):
        planes, width = self.shapes[of]
        parts = [
            np.frombuffer(r.block[7], f"<f{width}").reshape(planes, -1)
            for r in self.rows[self.ids[of]]
        ]
        return np.concatenate([np.empty((planes, 0)), *parts], axis=1)

    def seconds(self, of):
        """Of each sample of an even stream, by its segments."""
        segments = [s for r in self.rows[self.ids[of]] for s in r.segments]
        count = self.values(of).shape[1]
        out = np.empty(count)
        for s, end in zip(segments, [*(s[1] for s in segments[1:]), count], strict=True):
            out[s[1] : end] = (s[4] - START) * 1e-9 + np.arange(end - s[1]) / s[5]
        return out

    def keeping(self, left_out=lambda placed, legs: False):
        found = Keeping(1, self.setup, self.streams(), lambda: 0.0, lambda: START, left_out)
        if self.progress:
            places = found.resume(json.loads(self.progress))
            return found, {k: (v.place.sequence, v.samples) for k, v in places.items()}
        return found, {}


RULES = [
    Everything(rate_hz=130.0),
    Bursts(length=0.2, every=0.7),
    Bursts(unit=BurstUnit.CYCLES, length=2, every=5, channel=FORCE, gate=GATE),
    TurningPoints(channel=FORCE, gate=GATE, every=2),
    WhenChanged(steps=[ChangeStep(channel=FORCE, step=GATE)], longest_s=0.3),
]
NAMES = names_of(RULES)


def play(sizes, lag, kills=(), lost_from=0.0):
    """All blocks of both devices, A2 a little behind or ahead; killed at some of them.

    lag : seconds by which A2's blocks come later
    kills : (block at which the recorder dies, blocks after which it had written last)
    """
    store = Store(RULES)
    course = sorted(
        [(p.end_ns + round(lag * 1e9) * (label == "A2"), label, p)
         for label, of in sizes.items() for p in blocks_of(label, of)],
        key=lambda one: one[0],
    )  # fmt: skip
    keeping, _ = store.keeping()
    kills, at = dict(kills), 0
    while at < len(course):
        _, label, placed = course[at]
        keeping.push_block(label, placed.bare())
        at += 1
        if at % 7 == 3:
            for row in keeping.take():
                store.put(row)
            if not (kills.get(at)):  # else: killed between the rows and the progress
                store.progress = json.dumps(keeping.state, allow_nan=False)
        if at in kills:
            del kills[at]
            keeping, places = store.keeping()
            at = _again(keeping, places, course, at)
    rows, ends = keeping.finish()
    for row in rows:
        store.put(row)
    assert {e.stream_id: e.samples for e in ends} == {
        i: sum(r.block[2] for r in rows) for i, rows in store.rows.items()
    }
    return store


def _again(keeping, places, course, at):
    """What the devices send again from the places on, up to where the course was."""
    for _, label, placed in course[:at]:
        first, samples = places.get(label, (0, 0))
        if placed.block.sequence >= first:
            assert placed.block.sequence > first or placed.first_sample == samples
            keeping.push_block(label, placed.bare())
    return at


SIZES = st.fixed_dictionaries(
    {
        "A1": st.lists(st.integers(1, 170), min_size=1, max_size=5),
        "A2": st.lists(st.integers(1, 70), min_size=1, max_size=5),
    }
)
KILLS = st.lists(st.tuples(st.integers(1, 80), st.booleans()), max_size=3)


@given(SIZES, st.floats(-0.4, 0.4), KILLS)
@settings(max_examples=30, deadline=None, phases=[Phase.explicit, Phase.generate])
def test_each_stream_is_its_whole_array_twin(sizes, lag, kills):
    store = play(sizes, lag, kills)
    for label in RATES:
        check_fewer(store, label)
        check_bursts(store, label)
        check_cycles(store, label)
        check_turns(store, label)
        check_changes(store, label)


def check_fewer(store, label):
    of = (label, NAMES[0])
    factor = RULES[0].factor(RATES[label])
    twin = Decimator(factor, INPUTS[label])
    ratios = ratios_of(label).astype(float)
    expected = np.concatenate([twin.push(ratios), twin.finish()], axis=1)
    np.testing.assert_allclose(store.values(of), expected.astype("f4"), rtol=1e-6, atol=1e-12)
    np.testing.assert_allclose(store.seconds(of), times_of(label)[::factor], atol=3e-9)


def check_bursts(store, label):
    of = (label, NAMES[1])
    kept = BurstPlan(0.2, 0.7).covers(times_of(label))
    np.testing.assert_allclose(store.seconds(of), times_of(label)[kept], atol=3e-9)
    np.testing.assert_array_equal(store.values(of), ratios_of(label)[:, kept])


def lead():
    return CHAIN.apply(ratios_of("A1")[0].astype(float))


def check_cycles(store, label):
    of = (label, NAMES[2])
    kept = BurstPlan(2, 5).covers(CycleCounter(GATE).push(lead()))
    if label != "A1":
        kept = kept[np.maximum(np.floor(times_of(label) * RATES["A1"] + 1e-6).astype(int), 0)]
    np.testing.assert_allclose(store.seconds(of), times_of(label)[kept], atol=3e-9)
    np.testing.assert_array_equal(store.values(of), ratios_of(label)[:, kept])


def check_turns(store, label):
    at = CycleTurns(GATE, 2).push(lead()).kept
    assert len(at) == 2 * 8  # of fifteen cycles, every second
    check_rows(store, (label, NAMES[3]), label, at)


def check_changes(store, label):
    rows = store.values((label, NAMES[4]))
    other = store.values(("A1", NAMES[4]))
    np.testing.assert_array_equal(rows[-1], other[-1])
    assert np.diff(rows[-1]).max() <= 0.3 + 1e-9
    check_rows(store, (label, NAMES[4]), label, np.rint(rows[-1] * RATES["A1"]).astype(int))


def check_rows(store, of, label, at):
    rows, seconds = store.values(of), at / RATES["A1"]
    np.testing.assert_allclose(rows[-1], seconds, atol=3e-9)
    for values, ratios in zip(rows[:-1], ratios_of(label), strict=True):
        there = np.interp(seconds, times_of(label), ratios.astype(float), left=np.nan)
        reached = seconds <= times_of(label)[-1]
        np.testing.assert_allclose(values[reached], there[reached], rtol=2e-4, atol=1e-8)


def test_a_gap_is_shown_and_restarts_what_counts():
    store = Store([Everything(rate_hz=200.0), TurningPoints(channel=FORCE, gate=GATE)])
    keeping, _ = store.keeping()
    for placed in blocks_of("A1", [100]):
        if 10 <= placed.block.sequence < 12:
            continue
        if placed.block.sequence >= 12:  # as the line places it: behind a gap
            gap = PlacedSegment(1000, "gap", 0, START + 1_200_000_000, 1000.0, 1, 2)
            later = PositionedBlock(placed.block, placed.first_sample - 200, gap)
            keeping.push_block("A1", later)
        else:
            keeping.push_block("A1", placed)
    rows, _ = keeping.finish()
    for row in rows:
        store.put(row)
    segments = [s for r in store.rows[store.ids["A1", "everything"]] for s in r.segments]
    assert [(s[2], s[1], s[7]) for s in segments] == [("start", 0, 0), ("gap", 200, 2)]
    assert segments[1][4] == START + 1_200_000_000
    rows = store.values(("A1", "turning_points"))
    assert not ((rows[-1] > 0.999) & (rows[-1] < 1.2)).any()
    pairs = rows[0].reshape(-1, 2)
    assert (np.abs(pairs[:, 0] - pairs[:, 1]) > 8e-4).all()


class Rows:
    def __init__(self):
        self.rows = []

    def push(self, rows):
        self.rows.append(rows[:, 0].tolist())


def test_an_instant_long_before_what_is_remembered_has_no_values():
    """The lead was away for longer than the blocks of another device are kept."""
    rows, segment = Rows(), PlacedSegment(0, "start", 0, START, 10.0, 1)
    keeper = RowKeeper(rows, [0], lambda: START)
    for sequence in range(60):  # of a second each
        counts = np.full((10, 1), RAIL // 2, np.int32)
        block = SampleBlock(1, sequence, 0, 10.0, np.ones(1, np.float32), counts, False, RAIL)
        keeper.push_block(PositionedBlock(block, 10 * sequence, segment), sequence > 0)
    soon, at = START + 1_030_000_000, START + 55_030_000_000
    keeper.tell([soon, at], [], at + 10**9)
    np.testing.assert_allclose(rows.rows, [[np.nan, 1.03], [0.5, 55.03]], rtol=1e-6)


def test_what_is_left_out_is_no_gap():
    store = Store([Bursts(length=0.4, every=0.8)])
    keeping, _ = store.keeping(lambda placed, legs: 8 <= placed.block.sequence < 13)
    for placed in blocks_of("A1", [100]):
        keeping.push_block("A1", placed)
    rows, _ = keeping.finish()
    for row in rows:
        store.put(row)
    segments = [s for r in store.rows[store.ids["A1", "bursts"]] for s in r.segments]
    assert [s[2] for s in segments] == ["start", "burst", "burst"]  # the second was left out
    assert all(s[7] == 0 for s in segments)


@pytest.mark.parametrize("rule", RULES, ids=NAMES)
def test_rules_say_about_how_much_they_keep(rule):
    from yoke_server.kinds.keep_rules.base import Expected

    store = play({"A1": [100], "A2": [40]}, 0.0)
    name = NAMES[RULES.index(rule)]
    for label, rate in RATES.items():
        expected = rule.rows(rate, Expected(seconds=SECONDS, cycles=5 * SECONDS))
        kept = store.values((label, name)).shape[1]
        if isinstance(rule, WhenChanged):
            assert kept >= expected
        else:
            assert kept == pytest.approx(expected, rel=0.15)
