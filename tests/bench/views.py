"""Opening and zooming long runs, open and closed; resuming and closing them."""

import os
import time
from collections.abc import Callable
from typing import Any

import numpy as np
import psycopg
from django.http import HttpRequest

from tests import recorded
from tests.bench.lab import fresh_setup
from tests.bench.measure import Row, interleaved

SAMPLES = 100_000_000
RATE = 50_000.0
PIXELS = 1400
BLOCK = 250_000  # samples; large, so that the run is made in seconds


class Batches:
    """Takes what a keeper gives out, many stretches a transaction."""

    def __init__(self) -> None:
        self._waiting: list[Any] = []

    def put(self, work: Any) -> None:
        self._waiting.append(work)
        if len(self._waiting) >= 20:
            self.write()

    def write(self) -> None:
        from yoke_server.record.store import write_samples

        write_samples(self._waiting)
        self._waiting.clear()


def long_run(setup: Any, samples: int, number: int, rate: float, size: int) -> tuple[Any, Any]:
    """An open run of one channel, written by the recorder's own keeper; and that keeper."""
    run = recorded.begin(setup, number)
    batches = Batches()
    keeper = recorded.keeper(run, recorded.stream_of(run, rate=rate), put=batches.put)
    random = np.random.default_rng(1)
    noise = random.integers(-1000, 1000, (size, 8), dtype=np.int32)
    for i in range(samples // size):
        counts = noise + 300 * (i % 4000)
        at = round(i * size * 1e9 / rate)
        keeper.take(recorded.block(i, counts, rate=rate, time_ns=at))
    keeper.flush()
    batches.write()
    return run, keeper


def windows() -> list[tuple[str, float, float]]:
    whole = SAMPLES / RATE
    spans = (("whole", 1.0), ("a tenth", 0.1), ("a hundredth", 0.01), ("the newest tenth", 0.1))
    found = []
    for name, span in spans:
        start = whole * (1 - span) if "newest" in name else whole * (1 - span) / 2
        found.append((name, start, start + whole * span))
    return found


def measure() -> list[Row]:
    from yoke_server.record import queries
    from yoke_server.record.api import run_view

    setup = fresh_setup()
    setup.channels.exclude(name="F").delete()
    key = setup.channels.get().key
    run, keeper = long_run(setup, SAMPLES, 1, RATE, BLOCK)
    link = psycopg.connect(os.environ["DATABASE_URL"], autocommit=True)

    def viewing(from_s: float, to_s: float) -> Callable[[], bytes]:
        return lambda: run_view(HttpRequest(), run.pk, key, from_s, to_s, PIXELS).content

    def bare() -> Any:
        return link.execute("SELECT 1").fetchone()

    times: dict[str, list[float]] = {}
    rows = []
    for state in ("open", "closed"):
        for name, from_s, to_s in windows():
            best, floor = interleaved(viewing(from_s, to_s), bare, rounds=15)
            times.setdefault(name, []).append(best)
            if state == "closed":
                rows.append(_against_bare(name, best, floor))
                rows.append(_numbers(name, viewing(from_s, to_s)()))
        if state == "open":
            recorded.close(run, keeper)
            queries._known.clear()
    for name, (when_open, closed) in times.items():
        rows.append(
            Row(
                f"open run of 10^8 samples against the same closed, {name}", when_open * 1e3,
                closed * 1e3, "ms", "ratio at most 1.5", when_open <= 1.5 * closed,
            )
        )  # fmt: skip
    return rows


def _against_bare(name: str, best: float, floor: float) -> Row:
    return Row(
        f"view of 10^8 samples against SELECT 1, {name}", best * 1e3, floor * 1e3, "ms",
        "ratio at most 15", best <= 15 * floor,
    )  # fmt: skip


def _numbers(name: str, answer: bytes) -> Row:
    header = int.from_bytes(answer[:4], "little")
    numbers = (len(answer) - 4 - header) // 4
    words = f"  numbers sent for {PIXELS} pixels, {name}"
    return Row(words, numbers, PIXELS, "", "ratio at most 1", numbers <= PIXELS)


def measure_ends() -> list[Row]:
    """Taking a run up again, and closing it: an hour's data against a minute's."""
    from yoke_server.record.recorder.resume import resume_stream

    setup = fresh_setup()
    found: dict[str, dict[str, list[float]]] = {"resume": {}, "close": {}}
    for turn in range(7):
        for number, (words, seconds) in enumerate((("minute", 61.3), ("hour", 3601.3))):
            samples = round(seconds * 10) * 100
            run, keeper = long_run(setup, samples, 2 * turn + number + 1, 1000.0, 100)
            stream = run.streams.get()
            start = time.perf_counter()
            resume_stream(stream)
            middle = time.perf_counter()
            recorded.close(run, keeper)
            found["resume"].setdefault(words, []).append(middle - start)
            found["close"].setdefault(words, []).append(time.perf_counter() - middle)
            run.delete()
    rows = []
    for deed, by in found.items():
        hour, minute = min(by["hour"]), min(by["minute"])
        rows.append(
            Row(
                f"{deed} after an hour's data against a minute's", hour * 1e3, minute * 1e3, "ms",
                "ratio at most 1.3", hour <= 1.3 * minute,
            )
        )  # fmt: skip
    return rows
