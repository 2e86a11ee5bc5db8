"""Runs for tests, written by the recorder's own parts straight into the database."""

import uuid
from datetime import UTC, datetime

import numpy as np
from yoke_core.clock import ClockModel, ClockReading
from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.record.models import Run, RunState, Stream, StreamChannel
from yoke_server.record.recorder.control.recording import Closed
from yoke_server.record.recorder.storage.runs import close_run
from yoke_server.record.recorder.stream.writer import StreamWriter
from yoke_server.record.store import write_samples

FULL = 2**23 - 1
PER_BLOCK = 100
SECOND = 10**9
START = 1_800_000_000 * SECOND  # bench time of the tests' runs


def block(sequence, counts=None, acquisition=1, rate=1000.0, again=False, time_ns=None):
    """A block of a tenth of a second; its counts tell its sequence unless they are given."""
    if counts is None:
        counts = np.full((PER_BLOCK, 8), sequence, np.int32)
    at = sequence * SECOND // 10 if time_ns is None else time_ns
    return SampleBlock(acquisition, sequence, at, rate, np.full(8, 8e-3, np.float32), counts, again)


def clock(ppm=0.0):
    """A device's clock that is well known: zero at `START`, ``ppm`` fast."""
    model = ClockModel()
    for second in range(0, 600, 5):
        device = round(second * SECOND * (1 + ppm * 1e-6))
        model.push(ClockReading(device, START + second * SECOND, 1000))
    return model


def begin(setup, number=1, **fields):
    """An open run of the setup as it stands."""
    return Run.objects.create(
        setup=setup, revision=setup.revisions.get(number=setup.version), number=number,
        order_key=uuid.uuid4(), name=f"C1 run {number}", started_at=datetime.now(UTC),
        start_ns=START, **fields,
    )  # fmt: skip


def stream_of(run, device="A1", rate=1000.0):
    """The run's stream of a device, with the channels that its setup has there."""
    found = Stream.objects.create(run=run, device_label=device, rate_hz=rate)
    rows = run.setup.channels.filter(input__device__label=device)
    StreamChannel.objects.bulk_create(
        StreamChannel(stream=found, position=i, channel_key=c.key, signal="bridge ratio")
        for i, c in enumerate(rows)
    )
    return found


def columns_of(run, device="A1"):
    rows = run.setup.channels.filter(input__device__label=device)
    return [n - 1 for n in rows.values_list("input__number", flat=True)]


def keeper(run, stream, put=lambda work: write_samples([work]), model=None, **options):
    """A keeper that writes at once, in the test's own transaction."""
    columns = columns_of(run, stream.device_label)
    clock_ = model or clock()
    return StreamWriter(run.pk, stream.pk, columns, clock_, put, lambda: 0.0, **options)


def close(run, *keepers, state=RunState.KEPT, why="test"):
    rows = [one.finish() for one in keepers]
    closed = [
        Closed(k.stream_id, k.samples, k.chain, r) for k, r in zip(keepers, rows, strict=True)
    ]
    close_run(run.pk, state, why, closed)
    run.refresh_from_db()
    return run


def record(setup, blocks, device="A1", model=None, number=1):
    """A kept run of these blocks."""
    run = begin(setup, number)
    one = keeper(run, stream_of(run, device), model=model)
    for item in blocks:
        one.take(item)
    return close(run, one)
