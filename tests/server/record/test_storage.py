"""From ordered blocks to stored runs and back: rows, gaps, envelopes, views, seal, repeats."""

import hashlib
import json
from dataclasses import replace

import numpy as np
import pytest
from django.db import IntegrityError, connection
from yoke_core.signals.chain import SignalChain
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.chain import chain_of
from yoke_server.record import channel_of_run as looked_up
from yoke_server.record import following
from yoke_server.record.channel_of_run import ChannelOfRun, channel_of_run
from yoke_server.record.models import Block, RunProgress, RunState
from yoke_server.record.plot_data import _pairs, level_for, view
from yoke_server.record.queries import times_of
from yoke_server.record.recorder.model.progress import reached_of, read_progress
from yoke_server.record.recorder.storage.postgres.runs import PostgresRuns
from yoke_server.record.recorder.storage.runs import close_run
from yoke_server.record.recorder.storage.work import Close
from yoke_server.record.recorder.stream.block_order import Missing
from yoke_server.record.samples import read
from yoke_server.record.seal import seal
from yoke_server.record.store import RowsMissing, write_samples
from yoke_server.setups.freezing import freeze

from tests import recorded
from tests.recorded import (
    FULL,
    PER_BLOCK,
    SECOND,
    begin,
    block,
    clock,
    close,
    keeper,
    stream_of,
)


@pytest.fixture
def run(setup):
    return begin(setup)


@pytest.fixture
def stream(run):
    return stream_of(run)


def noise(blocks, seed=5):
    random = np.random.default_rng(seed)
    return random.integers(-FULL + 1, FULL, (blocks * PER_BLOCK, 8), dtype=np.int32)


def fill(one, counts, first=10):
    for i in range(len(counts) // PER_BLOCK):
        one.take(block(first + i, counts[i * PER_BLOCK : (i + 1) * PER_BLOCK]))


def ratios_of(counts, channel):
    return (counts[:, channel] * np.float64(np.float32(8e-3)) / FULL).astype(np.float32)


def test_blocks_are_put_together_into_rows_of_half_a_second(run, stream):
    one = keeper(run, stream)
    counts = noise(23)
    fill(one, counts)
    close(run, one)
    sizes = list(stream.blocks.order_by("first_sample").values_list("samples", flat=True))
    assert sizes == [500, 500, 500, 500, 300]
    assert list(stream.blocks.values_list("last_sequence", flat=True))[-1] == 32
    np.testing.assert_array_equal(read(stream, [1], 0, 2300)[0], ratios_of(counts, 1))
    np.testing.assert_array_equal(read(stream, [2], 777, 1203)[0], ratios_of(counts, 2)[777:1203])


def test_a_gap_is_a_row_and_no_samples_however_long_it_was(run, stream):
    one = keeper(run, stream)
    one.take(block(10))
    one.take(Missing(11, 36_010))  # an hour
    one.take(block(36_011))
    stored = close(run, one).streams.get()
    assert stored.samples == 2 * PER_BLOCK
    assert [(s.first_sample, s.cause, s.missing_blocks) for s in stored.segments.all()] == [
        (0, "start", 0),
        (PER_BLOCK, "gap", 36_000),
    ]
    times = times_of(run, stored)
    ((gap_from, gap_to),) = times.gaps
    assert (gap_from, gap_to) == (pytest.approx(1.1), pytest.approx(3601.1))
    before, after = view(placed(times, 0), -1e9, 1e9, 200)
    assert (before.start_s, before.low.size, after.low.size) == (pytest.approx(1.0), 100, 100)
    assert after.start_s == pytest.approx(3601.1)
    assert view(placed(times, 0), 100.0, 3000.0, 200) == []


def test_what_is_missing_at_the_beginning_is_a_gap_from_there(run, stream):
    one = keeper(run, stream)
    one.take(block(14))
    stored = close(run, one).streams.get()
    assert times_of(run, stored).gaps == []
    stored.segments.update(missing_blocks=4)
    times = times_of(run, stored)
    assert times.gaps == [(0.0, times.segments[0].start_s)]


@pytest.mark.parametrize("is_open", [True, False], ids=["open", "closed"])
def test_any_view_is_the_samples_lowest_and_highest(run, stream, is_open):
    counts, one = noise(900), keeper(run, stream)
    fill(one, counts, first=0)
    one.flush()
    if not is_open:
        close(run, one)
        stream.refresh_from_db()
    times = times_of(run, stream)
    ratios = ratios_of(counts, 1)
    windows = [(0, 90_000, 100), (1600, 28_800, 50), (0, 90_000, 20_000), (65_500, 90_000, 30)]
    for first, last, pixels in windows:
        (found,) = view(placed(times, 1), first / 1000, last / 1000, pixels)
        assert found.low.size <= pixels
        size = 16 ** level_for(last - first, pixels)
        whole = ratios[first // size * size : -(-last // size) * size]
        assert found.low.min() == whole.min()
        assert found.high.max() == whole.max()
        assert found.start_s == pytest.approx(first / 1000, abs=1e-6)
        assert found.step_s * found.low.size == pytest.approx((last - first) / 1000, abs=1e-6)


def test_levels_follow_the_pixels():
    assert level_for(1000, 1000) == 0
    assert level_for(32_000, 1000) == 1
    assert level_for(10_000_000, 1000) == 3


def placed(times, place):
    """What stands at a place of a stream, whatever it is a channel of."""
    return ChannelOfRun(times, place, None, SignalChain(()))


def rows_of(stream):
    found = stream.envelope.order_by("level", "first_pair")
    return [(r.level, r.first_pair, r.pairs, bytes(r.data)) for r in found]


def test_a_fresh_recorder_goes_on_as_if_nothing_had_been(setup):
    counts = noise(1000)
    whole = begin(setup, 1)
    one = keeper(whole, stream_of(whole))
    fill(one, counts, first=0)
    close(whole, one)
    broken = begin(setup, 2)
    part = stream_of(broken)
    fill(keeper(broken, part), counts[: 703 * PER_BLOCK], first=0)  # dies with 3 blocks in hand
    found = recorded.resumed(broken, part)
    assert (found.samples, found.place.sequence) == (70_000, 700)
    other = keeper(broken, part, resumed=found)
    fill(other, counts[700 * PER_BLOCK :], first=700)
    close(broken, other)
    assert rows_of(part) == rows_of(whole.streams.get())
    np.testing.assert_array_equal(read(part, [0], 0, 100_000)[0], ratios_of(counts, 0))
    assert part.segments.count() == 1


def test_what_is_read_to_go_on_does_not_grow(setup, django_assert_max_num_queries):
    run = begin(setup)
    stream = stream_of(run)
    one = keeper(run, stream)
    counts = noise(100)
    read_rows = []
    for _ in range(12):
        fill(one, counts, first=one.samples // PER_BLOCK)
        one.flush()
        with django_assert_max_num_queries(25):
            recorded.resumed(run, stream)
        samples = one.samples - 65_536 * (one.samples // 65_536)
        read_rows.append(samples)
    assert max(read_rows) < 65_536


def test_the_seal_is_a_chain_over_rows_and_tells_any_change(run, stream):
    one = keeper(run, stream)
    fill(one, noise(12))
    close(run, one)
    chain = b""
    for row in stream.blocks.order_by("first_sample"):
        checksum, chain = seal(chain, row.first_sample, bytes(row.data))
        assert (bytes(row.chain), row.checksum) == (chain, checksum)
    stream.refresh_from_db()
    assert stream.seal == chain.hex()
    assert run.seal == hashlib.sha256(chain).hexdigest()
    row = stream.blocks.first()
    spoilt = bytes(row.data[:-1]) + bytes([row.data[-1] ^ 1])
    assert bytes(row.chain) not in seal(b"", 0, spoilt)
    Block.objects.filter(pk=row.pk).update(data=spoilt)
    with pytest.raises(Problem, match="damaged"):
        read(stream, [0], 0, 500)


@pytest.mark.parametrize("is_open", [True, False], ids=["open", "closed"])
def test_numbers_of_nine_digits_keep_them(run, stream, is_open):
    """What a device has made ready is stored as float64, from the block to a picture."""
    stream.sample_bytes = 8
    stream.save()
    channels = stream.channels.count()
    rail, noise = 10**9, np.random.default_rng(3).integers(-4, 5, (300 * PER_BLOCK, 8))
    counts = (123_456_789 + noise).astype(np.int32)
    blocks = [
        replace(block(i, part), rail=rail, full_scale=np.full(8, 1e6, np.float32))
        for i, part in enumerate(np.split(counts, 300))
    ]
    one = keeper(run, stream)
    known = None
    for i, item in enumerate(blocks):
        one.take(item)
        if i == 150:  # a fresh recorder goes on
            one.flush()
            looked_up._known.clear()
            known = channel_of_run(run.pk, stream.channels.first().channel_key)
            one = keeper(run, stream, resumed=recorded.resumed(run, stream))
    one.flush()
    if not is_open:
        close(run, one)
        stream.refresh_from_db()
    expected = (counts[:, 0].astype(float) * 1e6) / rail
    assert len(set(np.float32(expected))) < len(set(expected))  # float32 would not do
    found = read(stream, list(range(channels)), 0, len(counts))
    np.testing.assert_allclose(found[0], expected, rtol=1e-15)
    grown = channel_of_run(run.pk, stream.channels.first().channel_key)
    assert known is not grown and (grown.times.samples == len(counts) or not is_open)
    for first, last, pixels in [(100, 140, 100), (0, 30_000, 50), (29_000, 30_000, 30)]:
        (shown,) = view(placed(times_of(run, stream), 0), first / 1000, last / 1000, pixels)
        size = 16 ** level_for(last - first, pixels)
        whole = expected[first // size * size : -(-last // size) * size]
        digits = 1e-15 if size == 1 else 1e-7  # pictures of many samples are of float32
        assert (shown.low.min(), shown.high.max()) == pytest.approx(
            (whole.min(), whole.max()), rel=digits
        )


def test_clipped_samples_have_a_sign_and_no_value(run, stream):
    counts = np.zeros((PER_BLOCK, 8), np.int32)
    counts[:, 0] = np.arange(PER_BLOCK)
    counts[10:20, 0], counts[20:23, 0] = FULL, -FULL - 1
    one = keeper(run, stream)
    one.take(block(0, counts))
    close(run, one)
    stream.refresh_from_db()
    found = read(stream, [0], 0, PER_BLOCK)[0]
    assert (np.isposinf(found).sum(), np.isneginf(found).sum()) == (10, 3)
    (shown,) = view(placed(times_of(run, stream), 0), 0, 1, 25)
    assert np.isposinf(shown.high).sum() == 3
    assert np.isneginf(shown.low).sum() >= 1
    force = freeze(run.setup).channels[0]
    scaled = chain_of(force).apply(found)
    assert np.isposinf(scaled[10:20]).all()
    assert np.isneginf(scaled[20:23]).all()


def collected(run, stream, blocks):
    """What a keeper gives out for these blocks, and how it ends."""
    works = []
    one = keeper(run, stream, put=works.append)
    for item in blocks:
        one.take(item)
    one.flush()
    return works


@pytest.mark.parametrize("done", [0, 1, 2, 5])
def test_the_same_written_twice_is_there_once(run, stream, done):
    blocks = [block(i) for i in range(12)] + [Missing(12, 13)] + [block(i) for i in range(14, 24)]
    works = collected(run, stream, blocks)
    assert len(works) == 5
    write_samples(works[:done])  # committed, and the answer lost
    write_samples(works)
    write_samples(works)
    assert stream.blocks.count() == len(works)
    assert stream.segments.count() == 2
    assert read(stream, [0], 0, 2200).shape == (1, 2200)


def test_a_row_is_taken_only_where_the_one_before_it_ends(run, stream):
    first, second, third, *_ = collected(run, stream, [block(i) for i in range(20)])
    write_samples([first])
    with pytest.raises(RowsMissing, match="the samples before 1000 are missing"):
        write_samples([third])
    assert stream.blocks.count() == 1
    write_samples([first, second, third])
    assert stream.blocks.count() == 3


def test_a_segment_that_begins_before_the_one_before_it_ends_is_refused(run, stream):
    segment = {"cause": "start", "device_ns": 0, "rate_hz": 1000.0, "acquisition": 1}
    stream.segments.create(first_sample=0, bench_ns=0, **segment)
    stream.segments.create(first_sample=1000, bench_ns=10**9, **segment)
    with pytest.raises(IntegrityError, match="begins before the one before it ends"):
        stream.segments.create(first_sample=2000, bench_ns=2 * 10**9 - 2000, **segment)


def test_what_is_reached_is_stored_with_its_row(run, stream):
    rows = collected(run, stream, [block(i) for i in range(10)])
    RunProgress.objects.create(run=run)
    for row, states in zip(rows, ([1], [2]), strict=True):
        write_samples([replace(row, progress=json.dumps(reached_of("A1", states, "")))])
    run.progress.refresh_from_db()
    assert read_progress(run.progress.reached).conditions == {"A1": [2]}
    assert read_progress(run.progress.reached).triggered == ""
    write_samples([replace(rows[0], progress=json.dumps(reached_of("A1", [0], "again")))])
    run.progress.refresh_from_db()
    assert read_progress(run.progress.reached).conditions == {"A1": [2]}


def test_a_run_only_goes_allowed_ways(run, stream):
    one = keeper(run, stream)
    fill(one, noise(3))
    close(run, one, why="first")
    session = PostgresRuns(run.setup.bench_id)
    close_run(session, Close(run.pk, RunState.INTERRUPTED, "second", []))
    close_run(session, Close(run.pk, RunState.RECORDING, "third", []))
    run.refresh_from_db()
    assert (run.state, run.ended_because) == ("kept", "first")
    assert run.streams.get().samples == 300


def test_two_devices_of_one_run_lie_in_one_time(setup):
    """Clocks 12 ppm fast and 30 ppm slow, an hour after the start: right to 0.2 ms."""
    run = begin(setup)
    fast, slow = clock(12), clock(-30)
    for device, model, ppm, rate in (("A1", fast, 12, 1000.0), ("A2", slow, -30, 500.0)):
        stream = stream_of(run, device, rate)
        one = keeper(run, stream, model=model)
        per_block = round(rate / 10)
        for at in [*range(0, 600), *range(36_000 - 600, 36_000)]:
            if at == 35_400:
                one.take(Missing(600, 35_399))
            counts = np.zeros((per_block, 8), np.int32)
            one.take(block(at, counts, rate=rate, time_ns=at * SECOND // 10))
        one.flush()
        times = times_of(run, stream)
        last = times.segments[-1]
        true_s = 3600 / (1 + ppm * 1e-6)  # the device counted an hour, the bench this
        assert last.end_s == pytest.approx(true_s, abs=0.2e-3)


def test_an_index_leads_to_the_newest_and_to_any_sample(run, stream):
    one = keeper(run, stream)
    fill(one, noise(40))
    with connection.cursor() as cursor:
        cursor.execute("SET enable_seqscan = off")
        cursor.execute(
            "EXPLAIN SELECT max(first_sample) FROM record_block "
            "WHERE stream_id = %s AND first_sample <= 100",
            [stream.pk],
        )
        plan = "\n".join(row[0] for row in cursor.fetchall())
    assert "block_once" in plan


def test_a_view_of_an_open_run_grows_with_it(run, stream):
    """What is remembered of an open run and asked for its growth is what a fresh look finds."""
    key = stream.channels.first().channel_key
    one = keeper(run, stream)
    for at in (0, 1, 2, 3, 4, 9, 10, 11, 12, 13):
        if at == 9:
            one.take(Missing(5, 8))
        one.take(block(at))
        one.flush()
        seen = channel_of_run(run.pk, key)
        fresh = looked_up._look_up(run.pk, key)
        assert (seen.times.samples, seen.times.segments) == (
            fresh.times.samples,
            fresh.times.segments,
        )
    assert len(seen.times.gaps) == 1
    close(run, one)
    assert channel_of_run(run.pk, key).times.samples == 1000
    assert not channel_of_run(run.pk, key).times.open


def test_an_open_runs_envelope_is_that_of_its_samples_to_the_newest_one(run, stream):
    """Whatever stands in rows so far, and at every level above it."""
    one, dice = keeper(run, stream), np.random.default_rng(3)
    parts = [dice.integers(-FULL + 1, FULL, (size, 8)).astype(np.int32) for size in [9973] * 16]
    for at, counts in enumerate(parts):
        one.take(block(at, counts, rate=99730.0))
        one.flush()
        if at not in (0, 7, 15):
            continue
        times = times_of(run, stream)
        raw = read(stream, [1], 0, times.samples)[0]
        for level in range(1, 6):
            size = 16**level
            starts = np.arange(0, raw.size, size)
            ends = -(-raw.size // size)
            for first, last in ((0, ends), (ends - 1, ends), (ends // 2, ends + 5), (0, 1)):
                low, high = _pairs(placed(times, 1), level, first, last)
                window = slice(first, min(last, ends))
                np.testing.assert_array_equal(low, np.minimum.reduceat(raw, starts)[window])
                np.testing.assert_array_equal(high, np.maximum.reduceat(raw, starts)[window])


def test_an_open_run_that_lost_its_newest_blocks_is_looked_up_anew(run, stream):
    """As when the database's server and the recorder die at once."""
    key, one = stream.channels.first().channel_key, keeper(run, stream)
    for number in range(5):
        one.take(block(number))
        one.flush()
    assert channel_of_run(run.pk, key).times.samples == 500
    Block.objects.filter(stream=stream, first_sample__gte=300).delete()
    again = keeper(run, stream, resumed=recorded.resumed(run, stream))
    for number in (3, 4, 5):
        again.take(block(number))
    again.flush()  # a row from 300 to 600
    again.take(block(6))
    again.flush()
    seen = channel_of_run(run.pk, key)
    assert seen.times.samples == seen.times.segments[-1].last == 700
    assert seen.looked_up is channel_of_run(run.pk, key).looked_up


@pytest.mark.parametrize("seed", range(4))
def test_whatever_was_looked_at_before_an_open_run_shows_its_samples(
    run, stream, seed, monkeypatch
):
    """Looks of any window at any level, while samples, gaps and rows come."""
    monkeypatch.setattr(looked_up, "MAX_FRESH", 40_000)  # at times so many come that all is read
    monkeypatch.setattr(following, "MAX_FRESH", 40_000)
    monkeypatch.setattr(following, "MAX_PAIRS", 3000)
    key, dice = stream.channels.all()[1].channel_key, np.random.default_rng(seed)
    one, sequence, raw = keeper(run, stream), 0, np.empty(0, np.float32)
    for _ in range(60):
        for _ in range(dice.choice([0, 1, 1, 1, 12])):
            if dice.random() < 0.05:
                one.take(Missing(sequence, sequence + 3))
                sequence += 4
            counts = dice.integers(-FULL + 1, FULL, (4001, 8)).astype(np.int32)
            one.take(block(sequence, counts, rate=40010.0))
            sequence += 1
            raw = np.concatenate([raw, ratios_of(counts, 1)])
        if sequence == 0:
            continue
        one.flush()
        size = 16 ** (level := int(dice.integers(1, 6)))
        starts, ends = np.arange(0, raw.size, size), -(-raw.size // size)
        first = int(dice.integers(0, ends))
        last = ends if dice.random() < 0.6 else int(dice.integers(first + 1, ends + 1))
        found = _pairs(channel_of_run(run.pk, key), level, first, last)
        np.testing.assert_array_equal(found.low, np.minimum.reduceat(raw, starts)[first:last])
        np.testing.assert_array_equal(found.high, np.maximum.reduceat(raw, starts)[first:last])
