"""Runs for tests, written by the recorder's own parts straight into the database."""

import uuid
from datetime import UTC, datetime

import numpy as np
from yoke_core.timebase.clock import ClockModel, ClockReading
from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.record.models import Run, RunState, Stream, StreamChannel
from yoke_server.record.recorder.model.progress import Closed, Place
from yoke_server.record.recorder.storage.postgres.orders import PostgresOrders
from yoke_server.record.recorder.storage.postgres.runs import PostgresRuns
from yoke_server.record.recorder.storage.resume import resume_stream
from yoke_server.record.recorder.storage.runs import close_run
from yoke_server.record.recorder.storage.work import Close
from yoke_server.record.recorder.stream.block_order import Missing
from yoke_server.record.recorder.stream.device_line import DeviceLine
from yoke_server.record.recorder.stream.ring import MemoryBudget
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
        setup=setup,
        revision=setup.revisions.get(number=setup.version),
        number=number,
        order_key=uuid.uuid4(),
        name=f"C1 run {number}",
        started_at=datetime.now(UTC),
        start_ns=START,
        **fields,
    )


def stream_of(run, device="A1", rate=1000.0):
    """The run's stream of a device, with the channels that its setup has there."""
    found = Stream.objects.create(
        run=run, device_label=device, rate_hz=rate, first_acquisition=1, first_sequence=0
    )
    rows = run.setup.channels.filter(input__device__label=device)
    StreamChannel.objects.bulk_create(
        StreamChannel(stream=found, position=i, channel_key=c.key, signal="bridge ratio")
        for i, c in enumerate(rows)
    )
    return found


def columns_of(run, device="A1"):
    rows = run.setup.channels.filter(input__device__label=device)
    return [n - 1 for n in rows.values_list("input__number", flat=True)]


class Kept:
    """One device's samples on their way into a stream, as a run keeps them."""

    keeps_samples = True

    def __init__(self, run, stream, put, model, resumed=None):
        columns = columns_of(run, stream.device_label)
        self._model = model
        self._now_ns = START  # each block arrives when its last sample was taken
        self.line = DeviceLine(
            model, lambda: self._now_ns, lambda: 0.0, lambda first, last: None, MemoryBudget()
        )
        self.writer = StreamWriter(
            run.pk, stream.pk, columns, Place(1, 0), put, lambda: 0.0, resumed, stream.sample_bytes
        )
        if resumed:
            self.line.go_on_from(resumed.line_place(stream.rate_hz), stream.rate_hz)
        self.line.subscribe(self)
        self._is_new = resumed is None

    def row_position(self, block):
        return self.writer.row_position(block)

    def push_block(self, placed):
        self.writer.push_block(placed)

    def restart(self, acquisition): ...
    def fail(self, error):
        raise error

    def take(self, item):
        """A block; or what is missing before the next one."""
        if isinstance(item, Missing):
            if self._is_new:
                return
            self.line._order.next = item.last + 1
            self.line._missing += item.count
            return
        if self._is_new:
            self.writer._next, self._is_new = item.sequence, False
        length = round(item.samples * 1e9 / item.rate_hz)
        self._now_ns = self._model.host_ns(item.time_ns) + length
        self.line.push_block(item)

    def flush(self):
        self.writer.flush()

    @property
    def samples(self):
        return self.writer.samples

    def close(self):
        self.line.flush()
        rows = self.writer.finish()
        return Closed(self.writer.stream_id, self.writer.samples, self.writer.chain, rows)


def keeper(run, stream, put=lambda row: write_samples([row]), model=None, **options):
    """What keeps a stream's samples, written at once, in the test's own transaction."""
    return Kept(run, stream, put, model or clock(), **options)


def resumed(run, stream):
    """What a fresh recorder finds of a stream."""
    session = PostgresOrders(run.setup.bench_id)
    (found,) = [s for s in session.open_run().streams if s.stream_id == stream.pk]
    return resume_stream(session, found)


def close(run, *keepers, state=RunState.KEPT, why="test"):
    closed = [one.close() for one in keepers]
    close_run(PostgresRuns(run.setup.bench_id), Close(run.pk, state, why, closed))
    run.refresh_from_db()
    return run


def record(setup, blocks, device="A1", model=None, number=1):
    """A kept run of these blocks."""
    run = begin(setup, number)
    one = keeper(run, stream_of(run, device), model=model)
    for item in blocks:
        one.take(item)
    return close(run, one)
