"""Samples on their way from blocks to rows: put in their place at once where that is known."""

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from yoke_core.timebase.clock import ClockModel
from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.record.recorder.model.progress import LinePlace, Place, StreamOrigin
from yoke_server.record.recorder.stream.device_line import DeviceLine
from yoke_server.record.recorder.stream.ring import MemoryBudget
from yoke_server.record.recorder.stream.writer import StreamWriter

from tests.simulation.virtual import VirtualClock

RATE, INPUTS, SCALE = 1000.0, 3, 2e-3


def block_of(sequence, samples, first):
    """Counts that are found nowhere else, so that each sample is known again."""
    counts = np.arange(first * INPUTS, (first + samples) * INPUTS, dtype=np.int32)
    return SampleBlock(
        1,
        sequence,
        round(first * 1e9 / RATE),
        RATE,
        np.full(INPUTS, SCALE, np.float32),
        counts.reshape(samples, INPUTS),
        False,
    )


def blocks_of(sizes):
    firsts = np.cumsum([0, *sizes[:-1]])
    return [block_of(n, s, int(f)) for n, (s, f) in enumerate(zip(sizes, firsts, strict=True))]


def line_of(columns, rows):
    """A device's line, and the writer that keeps some of its channels."""
    clock = VirtualClock()
    line = DeviceLine(
        ClockModel(), clock.bench_ns, clock.monotonic, lambda first, last: None, MemoryBudget()
    )
    writer = StreamWriter(1, 1, columns, Place(1, 0), rows.append, clock.monotonic)
    start = StreamOrigin(Place(1, 0), 0, 0)
    line.go_on_from(LinePlace(Place(1, 0), 0, start.segment(RATE)), RATE)
    line.subscribe(Kept(writer))
    return line, writer


class Kept:
    """What a run subscribes to a line, without anything to look at."""

    keeps_samples = True

    def __init__(self, writer):
        self.row_position, self.push_block = writer.row_position, writer.push_block


def kept(sizes, order, columns):
    """The rows' samples, (channels, samples), of blocks that arrive in an order."""
    rows, blocks = [], blocks_of(sizes)
    line, writer = line_of(columns, rows)
    for block in (blocks[i] for i in order):
        line.push_block(block)
    line.flush()
    writer.finish()
    found = [np.frombuffer(r.block[-1], np.float32).reshape(len(columns), -1) for r in rows]
    assert sum(f.shape[1] for f in found) == writer.samples
    return np.concatenate(found, axis=1)


def as_measured(sizes, order, columns):
    """The same of the blocks that came, in their own order."""
    blocks = blocks_of(sizes)
    counts = np.concatenate([blocks[i].counts for i in sorted(set(order))])
    return (counts[:, columns].T * SCALE / blocks[0].rail).astype(np.float32)


@settings(deadline=None)
@given(
    st.lists(st.sampled_from([1, 40, 100, 100, 100, 130]), min_size=1, max_size=25).flatmap(
        lambda sizes: st.tuples(
            st.just(sizes),
            st.lists(st.integers(0, len(sizes) - 1), min_size=1, max_size=2 * len(sizes)),
            st.sampled_from([[0, 1, 2], [0, 2], [1]]),
        )
    )
)
def test_blocks_in_any_order_lost_or_doubled_leave_each_sample_once_and_in_its_place(course):
    np.testing.assert_allclose(kept(*course), as_measured(*course), rtol=1e-6)


def test_blocks_in_order_are_put_in_their_place_at_once():
    line, writer = line_of(list(range(INPUTS)), [])
    row = None
    for n, block in enumerate(blocks_of([100] * 5)):
        where, at = writer.row_position(block)
        row = where if row is None else row
        assert where is row and at == 100 * n
        line.push_block(block)
