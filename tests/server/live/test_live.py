"""From the recorder's frames to a screen's mailbox."""

import asyncio
import json
from types import SimpleNamespace

import numpy as np
import psycopg
import pytest
from django.db import OperationalError, connection
from yoke_core.streaming.block import summarise_block
from yoke_server.bench.statements import LIVE_READS
from yoke_server.common.db.notify import NEWS
from yoke_server.kinds.chain import chain_of
from yoke_server.kinds.computed import ComputedChannel
from yoke_server.kinds.inputs.grid import Grid
from yoke_server.kinds.steps.filters import LowPass
from yoke_server.kinds.steps.gauge import ThermalOutput
from yoke_server.live import frames
from yoke_server.live.consumer import LiveConsumer
from yoke_server.live.hub import Hub
from yoke_server.live.mailbox import FRAMES, RELOAD, Mailbox
from yoke_server.live.mailbox import NEWS as MAX_NEWS
from yoke_server.live.protocol import HEADER_BYTES, ROW_FIELDS, Layout, read_header
from yoke_server.record.recorder.display.late_frames import LiveBlock
from yoke_server.record.recorder.display.live_frames import LiveFrames, late_frames
from yoke_server.record.recorder.stream.positioned import PositionedBlock
from yoke_server.setups.freezing import freeze
from yoke_server.setups.signals import signals_of

from tests.processes import environment

RAIL = 2**23 - 1


HEAD = len(ROW_FIELDS)


def summary_of(level=0.0, noise=1e-6, seed=1, samples=100, clipped=0):
    random = np.random.default_rng(seed)
    ratios = level + random.normal(0, noise, (samples, 8))
    counts = np.rint(ratios / 8e-3 * RAIL).astype(np.int32)
    counts[:clipped] = RAIL
    return summarise_block(counts, np.full(8, 8e-3, np.float32), RAIL, 5)


def rows_of(data):
    return np.frombuffer(data, "<f4", offset=HEADER_BYTES).reshape(read_header(data).channels, -1)


def on_a1(setup):
    return freeze(setup).of_device("A1")


def test_a_frame_holds_each_channels_quantities(setup):
    channels = on_a1(setup)
    channels[2] = channels[2].model_copy(update={"zero": 0.2e-3, "polarity": "cores swapped"})
    made = LiveFrames("A1", channels)
    block = summary_of(5e-4)
    data = made.encode(block, end_s=12.5, run_s=3.25)
    layout, count, bins, _, end_s, run_s = read_header(data)
    assert (count, bins, end_s, run_s) == (3, 5, 12.5, 3.25)
    assert made.layout == Layout(id=layout, device="A1", channels=[c.key for c in channels])
    for i, (row, channel) in enumerate(zip(rows_of(data), channels, strict=True)):
        wanted = chain_of(channel).apply(block.ratios[channel.input_number - 1])
        assert row[0] == i
        assert row[1] == row[6] == pytest.approx(wanted.mean(), rel=1e-4)
        assert row[2] == pytest.approx(0.5e-3, rel=1e-3)
        assert row[3] == row[HEAD::3].min() == pytest.approx(wanted.min(), rel=1e-4)
        assert row[4] == row[HEAD + 1 :: 3].max() == pytest.approx(wanted.max(), rel=1e-4)
        assert row[7] == pytest.approx(wanted.std(), rel=5e-3)
        assert row[-1] == pytest.approx(wanted[-1], rel=1e-4)
        assert (row[HEAD::3] <= row[HEAD + 1 :: 3]).all()


def of_a_rosette(setup, count=3):
    """The gauge's channel as so many grids of R1, on inputs 1 to 3."""
    gauge = freeze(setup).of_device("A1")[2]
    return [
        gauge.model_copy(
            update={"key": f"g{i}", "input_number": i + 1, "grid": Grid(rosette="R1", angle=angle)}
        )
        for i, angle in enumerate((0.0, np.pi / 4, np.pi / 2)[:count])
    ]


def principal_strain(channels):
    """Frames of the channels with the first principal strain of their rosette."""
    wanted = [computed("e1", f"strain1({{{channels[0].key}-e1}})")]
    return LiveFrames("A1", channels, signals_of(channels, wanted, {"A1": 1000.0}), 1000.0)


def test_a_whole_rosettes_largest_strain_is_a_row_of_its_own(setup):
    channels = of_a_rosette(setup)
    made = principal_strain(channels)
    assert made.layout.channels == ["g0", "g1", "g2", "e1"]
    block = summary_of(0)
    wanted = (900e-6, -300e-6, 0.3)  # principal strains and their angle
    for i, angle in enumerate((0.0, np.pi / 4, np.pi / 2)):
        strain = 300e-6 + 600e-6 * np.cos(2 * (wanted[2] - angle)) * np.linspace(0, 1, 100)
        chain = chain_of(channels[i])
        signals = np.linspace(-1e-3, 1e-3, 2001)
        block.ratios[i] = np.interp(strain, chain.apply(signals), signals)
    row = rows_of(made.encode(block, 1.0))[3]
    assert row[0] == 3
    assert row[4] == pytest.approx(900e-6, rel=1e-3)  # highest
    assert row[1] == pytest.approx(300e-6 + 300e-6, rel=1e-2)  # mean over the ramp
    assert row[-1] == pytest.approx(900e-6, rel=1e-3)


def test_a_rosette_without_a_grid_or_with_one_clipped_has_no_number(setup):
    two = principal_strain(of_a_rosette(setup, count=2))
    assert two.layout.channels == ["g0", "g1"] and "e1" in two.faults
    block = summary_of(0)
    block.ratios[1] = np.inf
    row = rows_of(principal_strain(of_a_rosette(setup)).encode(block, 1.0))[3]
    assert np.isnan(row[1])


def test_peaks_are_kept_until_they_are_reset(setup):
    made = LiveFrames("A1", on_a1(setup))
    for level in (3e-4, -2e-4, 1e-4):
        rows = rows_of(made.encode(summary_of(level, noise=0), 1.0))
    low, high = rows[0][3:5] / 25e3 * 2e-3
    assert (low, high) == (pytest.approx(-2e-4, rel=1e-3), pytest.approx(3e-4, rel=1e-3))
    made.reset_peaks([made.keys[0]])
    rows = rows_of(made.encode(summary_of(1e-4, noise=0), 1.0))
    assert rows[0][3] == rows[0][4]
    assert rows[1][3] < rows[1][4]


def test_what_clipped_is_in_no_figure(setup):
    made = LiveFrames("A1", on_a1(setup))
    row = rows_of(made.encode(summary_of(1e-4, noise=0, clipped=60), 1.0))[0]
    assert row[5] == pytest.approx(0.6)
    assert row[1] == row[4] == pytest.approx(25e3 * 0.05, rel=1e-3)
    assert np.isnan(row[HEAD])  # a bin of nothing but clipped samples
    row = rows_of(made.encode(summary_of(clipped=100), 1.0))[0]
    assert row[5] == 1
    assert np.isnan(row[1])
    assert row[4] == pytest.approx(25e3 * 0.05, rel=1e-3)


def test_a_change_of_scaling_begins_peaks_anew_and_others_keep_theirs(setup):
    channels = on_a1(setup)
    older, fresh = LiveFrames("A1", channels), LiveFrames("A1", channels)
    older.encode(summary_of(5e-4, noise=0), 1.0)
    fresh.take_over(older, {channels[1].key})
    rows = rows_of(fresh.encode(summary_of(1e-4, noise=0), 1.0))
    assert rows[0][3] == rows[0][4]
    assert rows[1][4] > rows[1][3]
    assert fresh.layout.id != older.layout.id


def test_a_frame_without_channels_is_a_header():
    data = LiveFrames("A1", []).encode(summary_of(), 1.0)
    assert read_header(data)[1:] == (0, 5, 0, 1.0, -1.0)
    assert len(data) == HEADER_BYTES == 32


def test_a_screen_gets_the_channels_it_asked_for(setup):
    made = LiveFrames("A1", on_a1(setup))
    data = made.encode(summary_of(5e-4), 1.0)
    layouts = {made.layout.id: made.keys}
    assert frames.of_channels(data, layouts, None) == data
    assert frames.of_channels(data, layouts, {"another"}) is None
    assert frames.of_channels(data, {}, {made.keys[0]}) is None
    some = frames.of_channels(data, layouts, {made.keys[2], made.keys[0]})
    np.testing.assert_array_equal(rows_of(some), rows_of(data)[[0, 2]])


def test_a_mailbox_loses_old_frames_but_no_news():
    async def main():
        box = Mailbox()
        for i in range(FRAMES + 30):
            box.frame(bytes([i]))
            box.state(f"state {i}")
        for i in range(3):
            box.news(f"news {i}")
        first = [await box.get() for _ in range(5)]
        rest = [await box.get() for _ in range(FRAMES - 1)]
        for _ in range(MAX_NEWS + 1):
            box.news("more")
        return first, rest, await box.get()

    first, rest, flooded = asyncio.run(main())
    assert first == [f"state {FRAMES + 29}", "news 0", "news 1", "news 2", bytes([30])]
    assert rest == [bytes([i]) for i in range(31, FRAMES + 30)]
    assert flooded == RELOAD


@pytest.fixture
def bench_id(transactional_db, setup):
    return setup.bench_id


async def heard(queue, count):
    return [await asyncio.wait_for(queue.get(), 5) for _ in range(count)]


def frames_only(messages):
    return [m for m in messages if isinstance(m, bytes)]


def run_with_hub(bench_id, scenario):
    """Run ``scenario(hub, queue, link)`` with a listening hub and a connection to write by."""
    address = environment(connection.settings_dict["NAME"])["DATABASE_URL"]

    async def main():
        hub = Hub(LIVE_READS)
        queue = hub.join(bench_id)
        async with await psycopg.AsyncConnection.connect(address, autocommit=True) as link:
            await asyncio.wait_for(hub.listening.wait(), 10)
            await write_frame(link, bench_id, b"first")
            while await asyncio.wait_for(queue.get(), 10) != b"first":
                pass  # the bench's state comes before
            try:
                return await scenario(hub, queue, link)
            finally:
                await hub.close()

    return asyncio.run(main())


async def write_frame(link, bench_id, payload):
    await link.execute(
        "WITH a AS (INSERT INTO bench_liveframe (bench_id, payload) VALUES (%s, %s)) "
        "SELECT pg_notify('yoke_live', %s)",
        [bench_id, payload, str(bench_id)],
    )


def test_frames_come_in_order_and_once(bench_id):
    async def scenario(hub, queue, link):
        for i in range(20):
            await write_frame(link, bench_id, bytes([i]))
        return await heard(queue, 20)

    assert run_with_hub(bench_id, scenario) == [bytes([i]) for i in range(20)]


async def cut(hub, link):
    """Break the hub's connections and wait until it listens again."""
    await link.execute(
        "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
        "WHERE datname = current_database() AND query LIKE 'LISTEN%%'"
    )


async def listening_again(hub):
    while hub.listening.is_set():
        await asyncio.sleep(0.01)
    await asyncio.wait_for(hub.listening.wait(), 10)


async def frames_until(queue, last):
    found = []
    while last not in found:
        found += frames_only(await heard(queue, 1))
    return found


def test_a_cut_listening_connection_comes_back_and_loses_no_frame(bench_id):
    async def scenario(hub, queue, link):
        await cut(hub, link)
        await write_frame(link, bench_id, b"meanwhile")
        await listening_again(hub)
        await write_frame(link, bench_id, b"after")
        return await frames_until(queue, b"after")

    assert run_with_hub(bench_id, scenario) == [b"meanwhile", b"after"]


def test_screens_go_on_after_the_server_has_crashed(bench_id):
    """Unlogged tables are emptied by a crash, and their numbers begin anew."""

    async def scenario(hub, queue, link):
        for i in range(30):
            await write_frame(link, bench_id, bytes([i]))
        await frames_until(queue, bytes([29]))
        await link.execute("TRUNCATE bench_liveframe RESTART IDENTITY")
        await cut(hub, link)
        await listening_again(hub)
        await write_frame(link, bench_id, b"after")
        return await asyncio.wait_for(frames_until(queue, b"after"), 5)

    assert run_with_hub(bench_id, scenario) == [b"after"]


def test_a_screen_of_a_second_bench_gets_its_own_frames(bench_id):
    async def scenario(hub, queue, link):
        other = hub.join(bench_id + 1)
        await write_frame(link, bench_id + 1, b"second")
        await heard(other, 1)
        for i in range(5):
            await write_frame(link, bench_id + 1, b"second")
            await write_frame(link, bench_id, bytes([i]))
        return await frames_until(queue, bytes([4])), frames_only(await heard(other, 5))

    first, second = run_with_hub(bench_id, scenario)
    assert first == [bytes([i]) for i in range(5)]
    assert second == [b"second"] * 5


def test_a_screen_that_joins_while_others_are_served_disturbs_nobody(bench_id, monkeypatch):
    """Joining between two awaits once ended the task that serves all screens."""

    async def scenario(hub, queue, link):
        show, joined = hub._show_state, []

        async def show_and_join(eye, bench):
            if not joined:
                joined.append(hub.join(bench_id + 5))
            await show(eye, bench)

        monkeypatch.setattr(hub, "_show_state", show_and_join)
        await cut(hub, link)
        await listening_again(hub)
        await write_frame(link, bench_id, b"after")
        return await asyncio.wait_for(frames_until(queue, b"after"), 5), len(joined)

    assert run_with_hub(bench_id, scenario) == ([b"after"], 1)


def test_news_reach_every_screen(bench_id):
    async def scenario(hub, queue, link):
        other = hub.join(bench_id)
        news = json.dumps({"kind": "setup", "setup": 1})
        await link.execute("SELECT pg_notify(%s, %s)", [NEWS, news])
        return await heard(queue, 1) + await heard(other, 1)

    messages = run_with_hub(bench_id, scenario)
    assert [json.loads(m)["kind"] for m in messages] == ["setup", "setup"]


class EndsWhileNobodyAnswers:
    """A session that the database cannot say anything of at first, and then knows no more."""

    session_key, asked = "key", 0

    async def aexists(self, key):
        self.asked += 1
        if self.asked < 3:
            raise OperationalError("the database is away")
        return False


def test_a_session_is_asked_for_again_after_the_database_was_away(settings):
    settings.SESSION_LOOK_SECONDS = 0

    async def scenario():
        screen = LiveConsumer()
        screen.scope, screen._mailbox = {"session": EndsWhileNobodyAnswers()}, Mailbox()
        asking = asyncio.create_task(screen._ask_again())
        try:
            return await asyncio.wait_for(screen._mailbox.get(), 5)
        finally:
            asking.cancel()

    assert asyncio.run(scenario()) is None


def computed(key, formula):
    return ComputedChannel(key=key, name=key, unit="MPa", decimals=1, formula=formula)


def test_computed_channels_follow_those_that_are_measured(setup):
    channels = on_a1(setup)
    gauge = next(c for c in channels if c.quantity == "strain")
    wanted = [
        computed("stress", f"{{{gauge.key}}} * 205 GPa"),
        computed("slope", f"rate({{{gauge.key}}}, over 150 ms)"),
        computed("gone", "2 * {nobody}"),
        computed("fast", f"lowpass({{{gauge.key}}}, to 900 Hz)"),
    ]
    made = LiveFrames("A1", channels, signals_of(channels, wanted, {"A1": 1000.0}), 1000.0)
    assert made.layout.channels == [*(c.key for c in channels), "stress", "slope"]
    assert "was removed" in made.faults["gone"]
    assert "too high for 1000 samples" in made.faults["fast"]
    block, place = summary_of(5e-4), channels.index(gauge)
    for follows, known in ((False, False), (True, True), (False, False)):
        rows = rows_of(made.encode(block, 1.0, follows=follows))
        assert rows[len(channels)][1] == pytest.approx(rows[place][1] * 205e9, rel=1e-5)
        assert np.isnan(rows[len(channels) + 1][1]) != known  # 150 ms are more than a block


def test_what_was_measured_by_other_settings_is_in_no_window(setup):
    channels = on_a1(setup)
    wanted = [computed("calm", f"highest({{{channels[0].key}}}, last 150 ms)")]
    made = LiveFrames("A1", channels, signals_of(channels, wanted, {"A1": 1000.0}), 1000.0)
    made.encode(summary_of(1e-3), 1.0)
    made.start_afresh()
    assert np.isnan(rows_of(made.encode(summary_of(0), 2.0))[-1][3:5]).all()
    force = rows_of(made.encode(summary_of(0), 3.0))
    assert force[-1][1] < 1e-3 * 12.5e6 / 2


def test_the_peaks_of_a_computed_channel_can_be_reset(setup):
    channels = on_a1(setup)
    wanted = [computed("twice", f"2 * {{{channels[0].key}}}")]
    made = LiveFrames("A1", channels, signals_of(channels, wanted, {"A1": 1000.0}), 1000.0)
    made.encode(summary_of(1e-3), 1.0)
    high = rows_of(made.encode(summary_of(0), 2.0))[-1][4]
    made.reset_peaks([channels[0].key])
    assert rows_of(made.encode(summary_of(0), 3.0))[-1][4] == high
    made.reset_peaks(["twice"])
    assert rows_of(made.encode(summary_of(0), 4.0))[-1][4] < high / 2


def with_steps(channel, *steps):
    return channel.model_copy(update={"steps": list(steps)})


def test_a_filtered_channel_is_read_behind_its_filter_and_so_by_formulas(setup):
    channels = on_a1(setup)
    place = next(i for i, c in enumerate(channels) if c.quantity == "strain")
    key = channels[place].key
    channels[place] = with_steps(channels[place], LowPass(corner_hz=20.0))
    wanted = [computed("stress", f"{{{key}}} * 205 GPa")]
    made = LiveFrames("A1", channels, signals_of(channels, wanted, {"A1": 1000.0}), 1000.0)
    assert made.layout.channels[-2:] == [key, "stress"]
    block = summary_of(5e-4)
    first = rows_of(made.encode(block, 1.0, follows=False))
    assert np.isnan(first[-2][3])  # its filter settles
    later = [rows_of(made.encode(block, 1.0, follows=True)) for _ in range(3)][-1]
    assert later[-1][1] == pytest.approx(later[-2][1] * 205e9, rel=1e-5)
    plain = LiveFrames("A1", on_a1(setup), rate_hz=1000.0)
    raw = rows_of(plain.encode(block, 1.0))[plain.keys.index(key)]
    assert later[-2][1] == pytest.approx(raw[1], rel=1e-3)
    assert later[-2][2] == raw[2]  # the raw signal


def test_a_step_that_is_off_changes_nothing(setup):
    channels = on_a1(setup)
    off = [with_steps(c, LowPass(on=False, corner_hz=20.0)) for c in channels]
    assert signals_of(off, [], {"A1": 1000.0}).nodes == {}


def test_a_step_that_lacks_something_says_so_in_place_of_a_reading(setup):
    channels = on_a1(setup)
    gauge = next(c for c in channels if c.quantity == "strain")
    channels = [
        with_steps(c, ThermalOutput(temperature="gone", coefficients=[1e-6])) if c is gauge else c
        for c in channels
    ]
    made = LiveFrames("A1", channels, signals_of(channels, [], {"A1": 1000.0}), 1000.0)
    assert "names no temperature channel" in made.faults[gauge.key]
    assert gauge.key not in made.layout.channels


def blocks_of(value, rate_hz, count, start_s):
    """Blocks of one second each whose first input reads a function of bench time, as ratios."""
    samples = round(rate_hz)
    for i in range(count):
        begin = start_s + i
        block = summary_of(samples=samples)
        times = begin + np.arange(samples) / samples
        block.ratios[:] = value(times)
        yield LiveBlock(block, begin, begin + 1.0, -1.0, i > 0)


def two_devices(setup):
    """A force on A1 at 1 kHz and the same on A9 at 100 Hz; their difference."""
    force = on_a1(setup)[0]
    slow = force.model_copy(update={"key": "slow", "name": "S", "device_label": "A9"})
    wanted = [computed("gap", f"{{{force.key}}} - {{slow}}")]
    rates = {"A1": 1000.0, "A9": 100.0}
    channels = [force, slow]
    return channels, signals_of(channels, wanted, rates), rates


def test_a_signal_of_two_devices_is_shown_once_both_have_come(setup):
    channels, signals, rates = two_devices(setup)
    assert signals.devices["gap"] == "A1"  # the faster one
    late = late_frames("A1", channels, signals, rates)
    assert (late.keys, late.wanted) == (["gap"], {"A9": ["slow"]})
    assert late_frames("A9", channels, signals, rates).keys == []
    assert LiveFrames("A1", channels[:1], signals, 1000.0).layout.channels == [channels[0].key]

    def wave(t):
        return 1e-3 * np.sin(2 * np.pi * t)

    fast = list(blocks_of(wave, 1000.0, 4, 10.0))
    slow = list(blocks_of(wave, 100.0, 4, 9.5))
    late.push_own(fast[0])
    assert late.take() == []  # the slower one is not here
    frames = []
    for block in slow:
        late.push_other("A9", block)
        frames += late.take()
    assert len(frames) == 1
    for block in fast[1:]:
        late.push_own(block)
        frames += late.take()
    assert len(frames) == 3 and read_header(frames[0]).end_s == 11.0
    for frame in frames:
        (row,) = rows_of(frame)
        assert abs(row[3]) < 5 and abs(row[4]) < 5  # of 12.5 kN: what lies between samples


def test_a_signal_gives_up_a_device_that_stays_away(setup, settings):
    settings.LIVE_WAIT_SECONDS = 1.5
    channels, signals, rates = two_devices(setup)
    late = late_frames("A1", channels, signals, rates)
    frames = []
    for block in blocks_of(lambda t: np.zeros(len(t)), 1000.0, 4, 10.0):
        late.push_own(block)
        frames.append(len(late.take()))
    assert frames == [0, 0, 1, 1]
    assert sum(map(len, [w.own for w in late._waiting])) <= 2  # what waits is bounded


def test_a_channel_with_a_step_by_another_devices_channel_is_late_too(setup):
    channels, _, rates = two_devices(setup)
    gauge = next(c for c in on_a1(setup) if c.quantity == "strain")
    slow = channels[1].model_copy(update={"quantity": "temperature"})
    step = ThermalOutput(temperature="slow", coefficients=[0.0, 1e-6])
    both = [with_steps(gauge, step), slow]
    signals = signals_of(both, [], rates)
    assert signals.faults == {}
    late = late_frames("A1", both, signals, rates)
    assert (late.faults, late.keys) == ({}, [gauge.key])
    assert gauge.key not in LiveFrames("A1", both[:1], signals, 1000.0).layout.channels


@pytest.mark.parametrize(
    ("first_sample", "segment", "cause", "follows"),
    [
        (100, 0, "start", True),  # the same segment goes on
        (100, 100, "clock", True),  # its clock is known better
        (100, 100, "gap", False),
        (100, 100, "step", False),
        (300, 0, "start", False),  # blocks are missing
    ],
)
def test_a_block_continues_the_one_before_unless_something_lies_between(
    first_sample, segment, cause, follows
):
    def block(first, begins, why):
        place = SimpleNamespace(first_sample=begins, cause=why)
        return PositionedBlock(SimpleNamespace(samples=100), first, place)

    before = block(0, 0, "start")
    assert not before.continues(None)
    assert block(first_sample, segment, cause).continues(before) == follows


def test_a_formula_of_a_channel_that_cannot_be_read_is_not_computed_without_its_step(setup):
    channels = on_a1(setup)
    gauge = next(c for c in channels if c.quantity == "strain")
    wrong = ThermalOutput(temperature="gone", coefficients=[0.0, 1e-6])
    wanted = [computed("stress", f"{{{gauge.key}}} * 205 GPa")]
    for on, faults in ((True, {gauge.key, "stress"}), (False, set())):
        step = wrong.model_copy(update={"on": on})
        some = [with_steps(c, step) if c is gauge else c for c in channels]
        assert signals_of(some, wanted, {"A1": 1000.0}).faults.keys() == faults
