"""Opening and zooming a run of ten million samples."""

import os
from typing import Any

import numpy as np
import psycopg
from django.http import HttpRequest

from tests.bench.lab import fresh_setup
from tests.bench.measure import Row, interleaved

SAMPLES = 10_000_000
RATE = 10_000
PER_BLOCK = 1000
PIXELS = 1400
FULL = 2**23 - 1


def long_run() -> Any:
    """A kept run of ten million samples a channel, written through the recorder's own session."""
    from yoke_server.bench.drivers.base import SampleBlock
    from yoke_server.record.closing import close_run
    from yoke_server.record.models import Run, RunState
    from yoke_server.record.recorder.session import Session
    from yoke_server.record.store import write_samples
    from yoke_server.wire.frozen import freeze

    setup = fresh_setup()
    run = Run.objects.create(
        setup=setup, number=1, name="long", state=RunState.RECORDING, specimen="C1",
        frozen=freeze(setup).model_dump(mode="json"), width_m=0.0125, thickness_m=0.003,
        gauge_length_m=0.05,
    )  # fmt: skip
    waiting: list[Any] = []

    class Batches:
        def put(self, work: Any) -> None:
            waiting.append(work)
            if len(waiting) >= 400:
                write_samples(waiting)
                waiting.clear()

    session = Session(run, Batches(), FULL, lambda a, b: None)  # type: ignore[arg-type]
    random = np.random.default_rng(1)
    scale = np.full(8, 8e-3, np.float32)
    for i in range(SAMPLES // PER_BLOCK):
        counts = random.integers(-1000, 1000, (PER_BLOCK, 8), dtype=np.int32) + 300 * (i % 4000)
        block = SampleBlock(1, i, i * PER_BLOCK * 10**9 // RATE, RATE, scale, counts, False)
        if i == 0:
            session.open(block)
        session.push(block)
    last = session.last_envelope_rows()
    write_samples([*waiting, *([last] if last else [])])
    close_run(run.pk, RunState.KEPT, "bench")
    return Run.objects.get(pk=run.pk)


def measure() -> list[Row]:
    from yoke_server.record.api import run_view
    from yoke_server.record.envelopes import FACTOR
    from yoke_server.record.views import level_for

    run = long_run()
    stream = run.streams.get()
    link = psycopg.connect(os.environ["DATABASE_URL"], autocommit=True)
    found = []
    for name, span in (("whole", 1.0), ("a tenth", 0.1), ("a hundredth", 0.01)):
        first = int(SAMPLES * (1 - span) / 2)
        last = first + int(SAMPLES * span)
        level = level_for(last - first, PIXELS // 2)
        size = FACTOR**level

        def ours(first: int = first, last: int = last) -> bytes:
            return run_view(HttpRequest(), run.pk, 0, first, last, PIXELS).content

        def floor(level: int = level, a: int = first // size, b: int = -(-last // size)) -> Any:
            return link.execute(
                "SELECT data FROM record_enveloperow WHERE stream_id = %s AND channel = 0 "
                "AND level = %s AND first_pair < %s AND first_pair + pairs > %s "
                "ORDER BY first_pair",
                [stream.pk, level, b, a],
                binary=True,
            ).fetchall()

        best, bare = interleaved(ours, floor, rounds=15)
        header = int.from_bytes(ours()[:4], "little")
        numbers = (len(ours()) - 4 - header) // 4
        found.append(
            Row(
                f"view of 10 million samples, {name}", best * 1e3, bare * 1e3, "ms",
                "ratio at most 10", best <= 10 * bare,
            )
        )  # fmt: skip
        found.append(
            Row(
                f"  numbers sent for {PIXELS} pixels", numbers, PIXELS, "", "ratio at most 1",
                numbers <= PIXELS,
            )
        )  # fmt: skip
    return found
