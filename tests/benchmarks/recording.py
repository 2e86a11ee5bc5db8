"""The recorder at 8 x 10 kHz, and at 2 x 8 x 50 kHz, while two browsers watch."""

import json
import os
import time
import zlib
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import psycopg
from django.db import connection

from tests import processes
from tests.benchmarks.lab import answered, fresh_setup
from tests.benchmarks.measure import ROUNDS, Row, percentile
from tests.browser.chromium import Watched, chromium

INPUTS = 8
WINDOW = 9.0  # s; seven of them are more than a minute of recording
BLOCK_S = 0.1

WATCH = """
window.seen = []
window.WebSocket = class extends WebSocket {
  constructor(...address) {
    super(...address)
    this.addEventListener('message', (e) => {
      if (typeof e.data === 'string') return
      const view = new DataView(e.data)
      const [layout, end] = [view.getUint32(0, true), view.getFloat64(16, true)]
      requestAnimationFrame(() => window.seen.push([layout, end, Date.now() / 1000]))
    })
  }
}"""


@dataclass(frozen=True)
class Load:
    """What is recorded: all eight inputs of some devices at a rate."""

    words: str
    devices: tuple[str, ...]
    rate: float
    most_ratio: float  # of the recorder's CPU to a bare COPY's

    @property
    def samples_per_second(self) -> float:
        return self.rate * INPUTS * len(self.devices)


ONE = Load("8 x 10 kHz", ("A1",), 10_000, 3)
TWO = Load("2 x 8 x 50 kHz", ("A1", "A2"), 50_000, 2)


@dataclass(frozen=True)
class Measured:
    """By window, but for the ages."""

    shares: list[float]
    backends: list[float]
    floors: list[float]
    ages: list[float]
    notified: float


def cpu_seconds(pid: int) -> float:
    """Time that a process's threads have run so far; schedstat counts nanoseconds."""
    threads = Path(f"/proc/{pid}/task").glob("*/schedstat")
    return sum(int(t.read_text().split()[0]) for t in threads) / 1e9


def backend_seconds() -> float:
    """The same of the database's processes that serve the recorder."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT pid FROM pg_stat_activity WHERE application_name = 'recorder'")
        return sum(cpu_seconds(pid) for (pid,) in cursor.fetchall())


class BareCopy:
    """The floor: the same blocks at the same pace, COPY and commit, nothing else."""

    def __init__(self, load: Load) -> None:
        self._link = psycopg.connect(os.environ["DATABASE_URL"], autocommit=True)
        self._link.execute("SET synchronous_commit = off")
        self._link.execute("CREATE TEMP TABLE floor (sequence int8, checksum int8, data bytea)")
        self._load = load
        self._data = os.urandom(round(load.rate * BLOCK_S) * INPUTS * 4)

    def cpu_per_sample(self, blocks: int) -> float:
        used = 0.0
        for i in range(blocks):
            time.sleep(BLOCK_S)
            start = time.thread_time()
            for _ in self._load.devices:
                with (
                    self._link.cursor() as cursor,
                    cursor.copy("COPY floor FROM STDIN (FORMAT BINARY)") as copy,
                ):
                    copy.set_types(["int8", "int8", "bytea"])
                    copy.write_row((i, zlib.crc32(self._data), self._data))
            used += time.thread_time() - start
        self._link.execute("TRUNCATE floor")
        return used / (blocks * BLOCK_S * self._load.samples_per_second)


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
    """Two browsers on the Record page, whose own sockets note when frames come to the screen."""
    browser = stack.enter_context(chromium())
    watchers = [Watched(browser), Watched(browser)]
    for watched in watchers:
        page = watched.sign_in(address, "technician")
        page.add_init_script(WATCH)
        page.goto(f"{address}/setups/{setup.pk}/record")
        page.wait_for_selector("text=Emergency stop")
    return watchers


def latencies(watchers: list[Watched]) -> list[float]:
    """Age of a block's oldest sample when its frame is on screen, s.

    A frame says when its block ended in bench time, which at the bench's own speed is the
    wall's, but for the constant between them that the device's filter and clock leave.
    """
    found: list[float] = []
    for watched in watchers:
        seen = json.loads(watched.page.evaluate("JSON.stringify(window.seen)"))
        found += [at - end + BLOCK_S for _, end, at in seen]
    return found


def measure() -> list[Row]:
    return [*measure_load(ONE), *measure_load(TWO)]


def measure_load(load: Load) -> list[Row]:
    from yoke_server.bench.services import save_stand_ins
    from yoke_server.record.services import order_run, request_stop_of

    setup = fresh_setup(load.rate, load.devices)
    os.environ["PGAPPNAME"] = "recorder"  # what its connections say of themselves
    with ExitStack() as stack:
        rig = stack.enter_context(processes.rig(1.0))
        save_stand_ins(rig.ports)
        recorder = stack.enter_context(processes.recorder("yoke_bench"))
        os.environ["PGAPPNAME"] = "bench"
        address = stack.enter_context(processes.web("yoke_bench"))
        away = setup.bench.devices.exclude(link="linked")
        processes.wait_for(lambda: not away.exists(), "the links", 60)
        actor = engineer_with_yoke(setup)
        os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "1"
        watchers = watch(stack, address, setup)
        run_id = answered(order_run(actor, setup.pk, version=setup.version, pull=False))["run"]
        floor, notified = BareCopy(load), []
        shares, backends, floors = [], [], []
        for _ in range(ROUNDS):
            before = cpu_seconds(recorder.pid), backend_seconds(), time.perf_counter()
            floors.append(floor.cpu_per_sample(80))
            notified.append(notify_round_trip(60))
            time.sleep(max(0.0, WINDOW - (time.perf_counter() - before[2])))
            passed = time.perf_counter() - before[2]
            shares.append((cpu_seconds(recorder.pid) - before[0]) / passed)
            backends.append((backend_seconds() - before[1]) / passed)
        ages = latencies(watchers)
        request_stop_of(actor, run_id)
    measured = Measured(shares, backends, floors, ages, percentile(notified, 0.95))
    return rows(load, run_id, measured)


def rows(load: Load, run_id: int, measured: Measured) -> list[Row]:
    from yoke_server.record.models import Run
    from yoke_server.record.streams import streams_of

    processes.wait_for(lambda: Run.objects.filter(pk=run_id, state="kept").exists(), "the end")
    streams = streams_of(run_id)
    seconds = min(s.samples / s.rate_hz for s in streams)
    gaps = sum(len(s.gaps) for s in streams)
    per_sample = min(measured.shares) / load.samples_per_second
    floor = min(measured.floors)
    age = percentile(measured.ages, 0.95)
    wanted = 2 * BLOCK_S + measured.notified
    share, backends = max(measured.shares), max(measured.backends)
    return [
        Row(
            f"{load.words}: missing blocks in {seconds:.0f} s", gaps, None, "gaps",
            "none in 60 s", seconds >= 60 and not gaps,
        ),
        Row(
            f"{load.words}: recorder, share of a core, worst window", share * 100, None, "%",
            "under 15 %", share < 0.15,
        ),
        Row(
            f"{load.words}: its database backends, worst window", backends * 100, None, "%",
            "under 30 %", backends < 0.3,
        ),
        Row(
            f"{load.words}: CPU a sample against bare COPY", per_sample * 1e9, floor * 1e9, "ns",
            f"ratio at most {load.most_ratio:g}", per_sample <= load.most_ratio * floor,
        ),
        Row(
            f"{load.words}: sample to screen, 95th percentile of {len(measured.ages)}",
            age * 1e3, wanted * 1e3, "ms", "ratio at most 1 (2 blocks + NOTIFY)", age <= wanted,
        ),
    ]  # fmt: skip
