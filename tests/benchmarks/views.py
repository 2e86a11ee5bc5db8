"""Opening and zooming long runs, open and closed; resuming and closing them."""

import os
import time
from typing import Any

import numpy as np
import psycopg
from django.http import HttpRequest

from tests import recorded
from tests.benchmarks.lab import fresh_setup
from tests.benchmarks.measure import Row, timed

SAMPLES = 100_000_000
RATE = 50_000.0
PIXELS = 1400
BLOCK = 250_000  # samples; large, so that the run is made in seconds
ROUNDS = 40
GROWTH = 5000  # samples of a block as a device sends it
AT_ONCE = 20  # rows a transaction


class LongRun:
    """An open run of one channel, written by the recorder's own keeper."""

    def __init__(self, setup: Any, number: int, rate: float) -> None:
        self.run = recorded.begin(setup, number)
        self.stream = recorded.stream_of(self.run, rate=rate)
        self.keeper = recorded.keeper(self.run, self.stream, put=self._put)
        self._rate, self._samples, self._blocks = rate, 0, 0
        self._random = np.random.default_rng(1)
        self._waiting: list[Any] = []

    def _put(self, work: Any) -> None:
        self._waiting.append(work)
        if len(self._waiting) >= AT_ONCE:
            self._write()

    def _write(self) -> None:
        from yoke_server.record.store import write_samples

        write_samples(self._waiting)
        self._waiting.clear()

    def record(self, samples: int, size: int) -> None:
        """So many samples more, in blocks of a size."""
        noise = self._random.integers(-1000, 1000, (size, 8), dtype=np.int32)
        for _ in range(samples // size):
            counts = noise + 300 * (self._blocks % 4000)
            at = round(self._samples * 1e9 / self._rate)
            block = recorded.block(self._blocks, counts, rate=self._rate, time_ns=at)
            self.keeper.take(block)
            self._samples, self._blocks = self._samples + size, self._blocks + 1
        self.keeper.flush()
        self._write()

    def close(self) -> None:
        recorded.close(self.run, self.keeper)


def windows() -> list[tuple[str, float, float | None]]:
    """By name from and to in seconds; without a "to" as far as there are samples."""
    whole = SAMPLES / RATE
    return [
        ("whole", 0.0, None),
        ("a tenth", 0.45 * whole, 0.55 * whole),
        ("a hundredth", 0.495 * whole, 0.505 * whole),
        ("the newest tenth", 0.9 * whole, None),
    ]


def measure() -> list[Row]:
    from yoke_server.record.api import run_view
    from yoke_server.record.readings.definitions import version_of

    setup = fresh_setup()
    setup.channels.exclude(name="F").delete()
    key = setup.channels.get().key
    closed, growing = LongRun(setup, 1, RATE), LongRun(setup, 2, RATE)
    for long in (closed, growing):
        long.record(SAMPLES, BLOCK)
    closed.close()
    link = psycopg.connect(os.environ["DATABASE_URL"], autocommit=True)

    version = version_of(closed.run)  # which the web asks by

    def seen(long: LongRun, from_s: float, to_s: float | None) -> bytes:
        answer = run_view(HttpRequest(), long.run.pk, key, from_s, to_s, PIXELS, version)
        return bytes(answer.content)

    rows, against_closed = [], []
    for name, *window in windows():
        times: dict[str, list[float]] = {"open": [], "closed": [], "bare": []}
        for _ in range(ROUNDS):  # a block is recorded before each
            growing.record(GROWTH, GROWTH)
            times["open"].append(timed(lambda at=window: seen(growing, *at)))
            growing.record(GROWTH, GROWTH)
            times["closed"].append(timed(lambda at=window: seen(closed, *at)))
            times["bare"].append(timed(lambda: link.execute("SELECT 1").fetchone()))
        best = {of: min(found) for of, found in times.items()}
        rows.append(_against_bare(name, best["closed"], best["bare"]))
        rows.append(_numbers(name, seen(closed, *window)))
        against_closed.append(
            Row(
                f"open run of 10^8 samples against one that is closed, {name}",
                best["open"] * 1e3,
                best["closed"] * 1e3,
                "ms",
                "ratio at most 1.5",
                best["open"] <= 1.5 * best["closed"],
            )
        )
    return rows + against_closed


def _against_bare(name: str, best: float, floor: float) -> Row:
    return Row(
        f"view of 10^8 samples against SELECT 1, {name}",
        best * 1e3,
        floor * 1e3,
        "ms",
        "ratio at most 15",
        best <= 15 * floor,
    )


def _numbers(name: str, answer: bytes) -> Row:
    header = int.from_bytes(answer[:4], "little")
    numbers = (len(answer) - 4 - header) // 4
    words = f"  numbers sent for {PIXELS} pixels, {name}"
    return Row(words, numbers, PIXELS, "", "ratio at most 1", numbers <= PIXELS)


def measure_ends() -> list[Row]:
    """Taking a run up again, and closing it: an hour's data against a minute's."""
    setup = fresh_setup()
    found: dict[str, dict[str, list[float]]] = {"resume": {}, "close": {}}
    for turn in range(7):
        for number, (words, seconds) in enumerate((("minute", 61.3), ("hour", 3601.3))):
            samples = round(seconds * 10) * 100
            long = LongRun(setup, 2 * turn + number + 1, 1000.0)
            long.record(samples, 100)
            start = time.perf_counter()
            recorded.resumed(long.run, long.stream)
            middle = time.perf_counter()
            long.close()
            found["resume"].setdefault(words, []).append(middle - start)
            found["close"].setdefault(words, []).append(time.perf_counter() - middle)
            long.run.delete()
    rows = []
    for action, by in found.items():
        hour, minute = min(by["hour"]), min(by["minute"])
        rows.append(
            Row(
                f"{action} after an hour's data against a minute's",
                hour * 1e3,
                minute * 1e3,
                "ms",
                "ratio at most 1.3",
                hour <= 1.3 * minute,
            )
        )
    return rows
