"""From the recorder's frames to a screen's queue."""

import asyncio
import json
import struct

import numpy as np
import psycopg
import pytest
from django.db import connection
from yoke_core.block import digest_block
from yoke_server.calibrate.scaling import to_quantity
from yoke_server.config.notify import NEWS
from yoke_server.live.hub import QUEUE, Hub
from yoke_server.record.recorder.live_frame import HEADER, LiveFrames
from yoke_server.record.recorder.measure import BLOCKS, SETTLING_BLOCKS, ShuntMeasurement
from yoke_server.record.recorder.show import Show
from yoke_server.wire.frozen import freeze

from tests.processes import environment

RAIL = 2**23 - 1


def digest(level=0.0, noise=1e-6, seed=1, samples=100):
    random = np.random.default_rng(seed)
    ratios = level + random.normal(0, noise, (samples, 8))
    counts = np.rint(ratios / 8e-3 * RAIL).astype(np.int32)
    return digest_block(counts, np.full(8, 8e-3, np.float32), RAIL, 5)


def test_a_frame_holds_each_channels_quantities(setup):
    setup.channels.filter(name="SG1").update(zero_mv_v=0.2, reversed=True)
    channels = freeze(setup).channels
    block = digest(5e-4)
    data = LiveFrames(channels).encode(block, end_s=12.5, run_s=3.25)
    count, bins, _, end_s, run_s = HEADER.unpack_from(data)
    assert (count, bins, end_s, run_s) == (3, 5, 12.5, 3.25)
    rows = np.frombuffer(data, "<f4", offset=HEADER.size).reshape(3, -1)
    for row, channel in zip(rows, channels, strict=True):
        wanted = to_quantity(channel, block.ratios[channel.input_number - 1].astype(float))
        assert row[0] == channel.id
        assert row[1] == pytest.approx(wanted.mean(), rel=1e-4)
        assert row[2] == pytest.approx(0.5, rel=1e-3)
        assert row[4::3].min() == pytest.approx(wanted.min(), rel=1e-4)
        assert row[5::3].max() == pytest.approx(wanted.max(), rel=1e-4)
        assert row[-1] == pytest.approx(wanted[-1], rel=1e-4)
        assert (row[4::3] <= row[5::3]).all()


def test_a_frame_without_channels_is_a_header():
    assert LiveFrames([]).encode(digest(), 1.0) == struct.pack("<HHIdd", 0, 5, 0, 1.0, -1.0)


def test_the_shunt_measurement_switches_waits_and_takes_the_difference(setup):
    channels = freeze(setup).channels
    switched = []
    work = ShuntMeasurement(channels, switched.append, 100e3)
    blocks = 0
    while not work.push(digest(8e-4 if switched == [True] else 1e-4)):
        blocks += 1
        assert blocks < 50
    assert switched == [True, False]
    assert blocks + 1 == 2 * BLOCKS + SETTLING_BLOCKS
    answer = work.result()
    assert answer["shunt_ohm"] == 100e3
    for channel in channels:
        assert answer[str(channel.id)]["step_mv_v"] == pytest.approx(0.7, rel=1e-3)
        assert answer[str(channel.id)]["clipped"] is False


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
        hub = Hub()
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


def test_a_slow_screen_loses_its_oldest_and_holds_nobody_up(bench_id):
    async def scenario(hub, queue, link):
        for i in range(QUEUE + 30):
            await write_frame(link, bench_id, bytes([i]))
        for _ in range(100):
            await asyncio.sleep(0.02)
            if queue.full() and queue._queue[-1] == bytes([QUEUE + 29]):
                break
        return await heard(queue, QUEUE)

    assert run_with_hub(bench_id, scenario) == [bytes([i]) for i in range(30, QUEUE + 30)]


def test_a_cut_listening_connection_comes_back_and_loses_no_frame(bench_id):
    async def scenario(hub, queue, link):
        await link.execute(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE query LIKE 'LISTEN%%'"
        )
        await write_frame(link, bench_id, b"meanwhile")
        while hub.listening.is_set():
            await asyncio.sleep(0.01)
        await asyncio.wait_for(hub.listening.wait(), 10)
        await write_frame(link, bench_id, b"after")
        found = []
        while b"after" not in found:
            found += frames_only(await heard(queue, 1))
        return found

    assert run_with_hub(bench_id, scenario) == [b"meanwhile", b"after"]


def test_news_reach_every_screen(bench_id):
    async def scenario(hub, queue, link):
        other = hub.join(bench_id)
        news = json.dumps({"kind": "setup", "setup": 1})
        await link.execute("SELECT pg_notify(%s, %s)", [NEWS, news])
        return await heard(queue, 1) + await heard(other, 1)

    messages = run_with_hub(bench_id, scenario)
    assert [json.loads(m)["kind"] for m in messages] == ["setup", "setup"]


def test_the_show_thread_writes_frames_and_state(bench_id, setup):
    show = Show(bench_id)
    show.start()
    for i in range(3):
        show.frame(bytes([i]))
    show.state({"phase": "idle"})
    show.finish()
    with connection.cursor() as cursor:
        cursor.execute("SELECT payload FROM bench_liveframe ORDER BY seq")
        assert [bytes(row[0]) for row in cursor.fetchall()] == [b"\0", b"\1", b"\2"]
    setup.bench.refresh_from_db()
    assert setup.bench.state == {"phase": "idle"}
