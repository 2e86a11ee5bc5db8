"""The recorder at 8 channels x 10 kHz while two browsers watch."""

import json
import os
import socket
import threading
import time
import zlib
from contextlib import ExitStack
from pathlib import Path
from typing import Any

import psycopg

from tests import processes
from tests.bench.lab import fresh_setup
from tests.bench.measure import ROUNDS, Row, percentile
from tests.browser.chromium import Watched, chromium

RATE = 10_000
CHANNELS = 8
WINDOW = 9.0  # s; seven of them are more than a minute of recording
BLOCK_S = 0.1

WATCH = """(bench) => {
  window.seen = []
  const socket = new WebSocket(`ws://${location.host}/live/${bench}`)
  socket.binaryType = 'arraybuffer'
  socket.onmessage = (e) => {
    if (typeof e.data === 'string') return
    const end = new DataView(e.data).getFloat64(8, true)
    requestAnimationFrame(() => window.seen.push([end, Date.now() / 1000]))
  }
}"""


def cpu_seconds(pid: int) -> float:
    """Time that a process's threads have run so far; schedstat counts nanoseconds."""
    threads = Path(f"/proc/{pid}/task").glob("*/schedstat")
    return sum(int(t.read_text().split()[0]) for t in threads) / 1e9


class BareCopy:
    """The floor: the same blocks at the same pace, COPY and commit, nothing else."""

    def __init__(self) -> None:
        self._link = psycopg.connect(os.environ["DATABASE_URL"], autocommit=True)
        self._link.execute("SET synchronous_commit = off")
        self._link.execute("CREATE TEMP TABLE floor (sequence int8, checksum int8, data bytea)")
        self._data = os.urandom(int(RATE * BLOCK_S) * CHANNELS * 4)

    def cpu_per_sample(self, blocks: int) -> float:
        used = 0.0
        for i in range(blocks):
            time.sleep(BLOCK_S)
            start = time.thread_time()
            with (
                self._link.cursor() as cursor,
                cursor.copy("COPY floor FROM STDIN (FORMAT BINARY)") as copy,
            ):
                copy.set_types(["int8", "int8", "bytea"])
                copy.write_row((i, zlib.crc32(self._data), self._data))
            used += time.thread_time() - start
        self._link.execute("TRUNCATE floor")
        return used / (blocks * RATE * BLOCK_S * CHANNELS)


class RigEar(threading.Thread):
    """Notes when each block leaves the device: a second listener on its data port."""

    def __init__(self, port: int) -> None:
        super().__init__(daemon=True)
        self._socket = socket.create_connection(("127.0.0.1", port))
        self.sent: list[tuple[float, float]] = []  # device time at the block's end, wall time

    def run(self) -> None:
        from yoke_server.bench.drivers.blocks import BlockReader

        reader = BlockReader()
        while data := self._socket.recv(1 << 18):
            now = time.time()
            reader.feed(data)
            while block := reader.next_block():
                self.sent.append((block.time_ns * 1e-9 + block.samples / block.rate_hz, now))


class StoreEye(threading.Thread):
    """Notes when each block is first seen in the database, by looking every few ms."""

    def __init__(self) -> None:
        super().__init__(daemon=True)
        self._link = psycopg.connect(os.environ["DATABASE_URL"], autocommit=True)
        self.seen: dict[int, float] = {}  # device time at the block's start, ns: wall time
        self.ending = False

    def run(self) -> None:
        newest = -1
        while not self.ending:
            rows = self._link.execute(
                "SELECT sequence, start_ns FROM record_block WHERE sequence > %s", [newest]
            ).fetchall()
            now = time.time()
            for sequence, start_ns in rows:
                newest = max(newest, sequence)
                self.seen[start_ns] = now
            time.sleep(0.02)

    def ages(self, ear: RigEar) -> list[float]:
        """Seconds from leaving the device to standing in the database."""
        left = {round((end - BLOCK_S) * 1e3): at for end, at in ear.sent}
        starts = ((round(ns / 1e6), at) for ns, at in self.seen.items())
        return [at - left[ms] for ms, at in starts if ms in left]


def notify_round_trip(rounds: int = 300) -> float:
    """95th percentile of NOTIFY from one connection to LISTEN on another, s."""
    ear = psycopg.connect(os.environ["DATABASE_URL"], autocommit=True)
    mouth = psycopg.connect(os.environ["DATABASE_URL"], autocommit=True)
    ear.execute("LISTEN bench_floor")
    times = []
    for _ in range(rounds):
        start = time.perf_counter()
        mouth.execute("NOTIFY bench_floor")
        next(iter(ear.notifies(timeout=1, stop_after=1)))
        times.append(time.perf_counter() - start)
    return percentile(times, 0.95)


def engineer_with_yoke(setup: Any) -> Any:
    from yoke_server.accounts.actor import Actor
    from yoke_server.accounts.models import User
    from yoke_server.bench.services import take_yoke

    actor = Actor(User.objects.get(username="engineer"), "bench")
    take_yoke(actor, setup.bench_id)
    return actor


def watch(stack: ExitStack, address: str, setup: Any) -> list[Watched]:
    """Two browsers on the Record page; each also notes when frames come to its screen."""
    browser = stack.enter_context(chromium())
    watchers = [Watched(browser), Watched(browser)]
    for watched in watchers:
        page = watched.sign_in(address, "technician")
        page.goto(f"{address}/setups/{setup.pk}/record")
        page.wait_for_selector("text=Emergency stop")
        page.evaluate(WATCH, setup.bench_id)
    return watchers


def latencies(ear: RigEar, watchers: list[Watched]) -> list[float]:
    """Age of a block's oldest sample when its frame is on screen, s."""
    left = {round(end, 4): at for end, at in ear.sent}
    found = []
    for watched in watchers:
        seen = json.loads(watched.page.evaluate("JSON.stringify(window.seen)"))
        found += [at - left[round(e, 4)] + BLOCK_S for e, at in seen if round(e, 4) in left]
    return found


def measure() -> list[Row]:
    from yoke_server.record.services import start_run, stop_run

    setup = fresh_setup(RATE)
    port = setup.bench.amplifiers.get().port
    with ExitStack() as stack:
        stack.enter_context(processes.rig(port, 1.0))
        recorder = stack.enter_context(processes.recorder("yoke_bench"))
        address = stack.enter_context(processes.web("yoke_bench"))
        processes.wait_for(lambda: setup.bench.amplifiers.filter(link="linked"), "the link")
        actor = engineer_with_yoke(setup)
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"
        watchers = watch(stack, address, setup)
        ear = RigEar(port + 1)
        ear.start()
        run_id = start_run(actor, setup.pk, pull=False).pk
        eye = StoreEye()
        eye.start()
        floor, shares, floors, notified = BareCopy(), [], [], []
        for _ in range(ROUNDS):
            before, start = cpu_seconds(recorder.pid), time.perf_counter()
            floors.append(floor.cpu_per_sample(80))
            notified.append(notify_round_trip(60))
            time.sleep(max(0.0, WINDOW - (time.perf_counter() - start)))
            spent = cpu_seconds(recorder.pid) - before
            shares.append(spent / (time.perf_counter() - start))
        ages = latencies(ear, watchers)
        eye.ending = True
        stored = percentile(eye.ages(ear), 0.95)
        stop_run(actor, run_id)
    return [
        *rows(run_id, shares, floors, ages, percentile(notified, 0.95)),
        Row(
            "block to database, 95th percentile", stored * 1e3, None, "ms", "within 200 ms",
            stored < 0.2,
        ),
    ]  # fmt: skip


def rows(
    run_id: int,
    shares: list[float],
    floors: list[float],
    ages: list[float],
    bare: float,
) -> list[Row]:
    from yoke_server.record.models import Run

    processes.wait_for(lambda: Run.objects.filter(pk=run_id, state="kept").exists(), "the end")
    run = Run.objects.get(pk=run_id)
    stream = run.streams.get()
    seconds = stream.samples / RATE
    per_sample, floor = min(shares) / (RATE * CHANNELS), min(floors)
    age = percentile(ages, 0.95)
    wanted = 2 * BLOCK_S + bare
    return [
        Row(
            f"recorder, 8 x 10 kHz, missing blocks in {seconds:.0f} s", len(stream.gaps), None,
            "gaps", "none in 60 s", seconds >= 60 and not stream.gaps,
        ),
        Row(
            "recorder, share of a core, worst window", max(shares) * 100, None, "%", "under 60 %",
            max(shares) < 0.6,
        ),
        Row(
            "recorder, CPU a sample against bare COPY", per_sample * 1e9, floor * 1e9, "ns",
            "ratio at most 4", per_sample <= 4 * floor,
        ),
        Row(
            f"sample to screen, 95th percentile of {len(ages)}", age * 1e3, wanted * 1e3, "ms",
            "ratio at most 1 (2 blocks + NOTIFY)", age <= wanted,
        ),
    ]  # fmt: skip
