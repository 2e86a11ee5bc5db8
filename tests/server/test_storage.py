"""From blocks to stored runs and back: order, gaps, envelopes, views, seal."""

import numpy as np
import pytest
from django.db import connection
from yoke_rig.blocks import SampleBlock as RigBlock
from yoke_server.bench.drivers.base import DriverError, SampleBlock
from yoke_server.bench.drivers.blocks import HEADER, BlockReader
from yoke_server.calibrate.scaling import LiveScaling, to_quantity
from yoke_server.config.problems import Problem
from yoke_server.record.closing import close_run, find_gaps, seal_of
from yoke_server.record.models import Run, RunState
from yoke_server.record.recorder import session as session_module
from yoke_server.record.recorder.resume import rebuild_envelope, resume
from yoke_server.record.recorder.session import Session
from yoke_server.record.samples import read
from yoke_server.record.store import Samples, write_samples
from yoke_server.record.views import level_for, view
from yoke_server.wire.frozen import freeze

FULL = 2**23 - 1
PER_BLOCK = 100


class DirectWriter:
    """Writes at once, in the test's own transaction."""

    def put(self, work):
        write_samples([work]) if isinstance(work, Samples) else work()


def block(sequence, acquisition=1, rng=None):
    counts = np.full((PER_BLOCK, 8), sequence, np.int32) if rng is None else rng
    return SampleBlock(
        acquisition, sequence, sequence * 100_000_000, 1000.0,
        np.full(8, 8e-3, np.float32), counts, False,
    )  # fmt: skip


@pytest.fixture
def run(setup):
    return Run.objects.create(
        setup=setup, number=1, name="C1 run 1", state=RunState.RECORDING, specimen="C1",
        frozen=freeze(setup).model_dump(mode="json"), width_m=0.0125, thickness_m=0.003,
        gauge_length_m=0.05,
    )  # fmt: skip


@pytest.fixture
def asked():
    return []


@pytest.fixture
def session(run, asked):
    made = Session(run, DirectWriter(), FULL, lambda a, b: asked.append((a, b)))
    made.open(block(10))
    return made


def stored(session):
    return list(session.stream.blocks.order_by("sequence").values_list("sequence", flat=True))


def test_blocks_out_of_order_and_twice_are_stored_once_in_order(session, asked):
    for sequence in (10, 11, 14, 15, 12, 12, 13, 15, 16):
        session.push(block(sequence))
    assert asked == [(12, 13)]
    assert stored(session) == list(range(10, 17))
    assert session.missing_blocks == 0


def test_a_gap_that_stays_is_kept_as_a_gap(session, monkeypatch):
    monkeypatch.setattr(session_module, "GIVE_UP_AFTER", -1.0)
    for sequence in (10, 11, 14, 15):
        session.push(block(sequence))
    assert stored(session) == [10, 11, 14, 15]
    assert session.missing_blocks == 2
    write_samples([session.last_envelope_rows()])
    close_run(session.run.pk, RunState.KEPT, "test")
    session.stream.refresh_from_db()
    assert session.stream.gaps == [[12, 13]]
    assert session.stream.samples == 600
    samples = read(session.stream, [0], 0, 600)[0]
    assert np.isnan(samples[200:400]).all()
    assert not np.isnan(samples[:200]).any()
    session.run.refresh_from_db()
    low = view(session.stream, 0, 0, 600, 16).low
    assert np.isnan(low).sum() > 0


def test_a_new_acquisition_ends_the_run(session):
    session.push(block(10))
    session.push(block(11, acquisition=2))
    assert "began anew" in session.why_ended
    assert session.interrupted
    assert stored(session) == [10]


def test_a_gap_of_over_an_hour_ends_the_run(session):
    session.push(block(10))
    session.push(block(40_000))
    assert session.interrupted
    assert "over an hour" in session.why_ended
    assert stored(session) == [10]


def fill(session, blocks=300):
    random = np.random.default_rng(5)
    everything = random.integers(-FULL, FULL, (blocks * PER_BLOCK, 8), dtype=np.int32)
    for i in range(blocks):
        session.push(block(10 + i, rng=everything[i * PER_BLOCK : (i + 1) * PER_BLOCK]))
    return everything


def test_any_view_is_the_samples_lowest_and_highest(session):
    counts = fill(session)
    write_samples([session.last_envelope_rows()])
    close_run(session.run.pk, RunState.KEPT, "test")
    stream = session.run.streams.select_related("run").get()
    ratios = (counts[:, 1] * np.float32(8e-3 / FULL)).astype(np.float32)
    for first, last, pixels in [(0, 30_000, 100), (1600, 28_800, 50), (0, 30_000, 20_000)]:
        found = view(stream, 1, first, last, pixels)
        assert found.low.size <= pixels
        assert found.low.min() == pytest.approx(ratios[first:last].min(), rel=1e-6)
        assert found.high.max() == pytest.approx(ratios[first:last].max(), rel=1e-6)


def test_levels_follow_the_pixels():
    assert level_for(1000, 1000) == 0
    assert level_for(32_000, 1000) == 1
    assert level_for(10_000_000, 1000) == 3


def test_envelope_rebuilt_after_a_crash_is_the_one_made_while_recording(session):
    fill(session, blocks=800)
    write_samples([session.last_envelope_rows()])
    columns = ("channel", "level", "first_pair", "pairs", "data")

    def rows():
        found = session.stream.envelope.order_by(*columns[:3]).values_list(*columns)
        return [(*r[:4], bytes(r[4])) for r in found]

    made = rows()
    write_samples([Samples(None, rebuild_envelope(session.stream).finish(), 0.0)])
    assert rows() == made
    assert len(made) > 3


def test_a_fresh_process_goes_on_where_the_blocks_end(session, asked):
    for sequence in range(10, 14):
        session.push(block(sequence))
    successor = Session(session.run, DirectWriter(), FULL, lambda a, b: asked.append((a, b)))
    assert resume(successor)
    successor.push(block(20))
    assert asked == [(14, 19)]
    for sequence in range(14, 20):
        successor.push(block(sequence))
    assert stored(successor) == list(range(10, 21))
    assert successor.samples == 1100


def test_the_seal_tells_any_change(session):
    fill(session, 5)
    before = seal_of(session.stream)
    assert seal_of(session.stream) == before
    one = session.stream.blocks.first()
    one.data = bytes(one.data[:-1]) + b"\x01"
    one.save()
    assert seal_of(session.stream) != before
    with pytest.raises(Problem, match="damaged"):
        read(session.stream, [0], 0, 500)


def test_closing_twice_changes_nothing(session):
    fill(session, 3)
    close_run(session.run.pk, RunState.KEPT, "first")
    close_run(session.run.pk, RunState.INTERRUPTED, "second")
    session.run.refresh_from_db()
    assert (session.run.state, session.run.ended_because) == ("kept", "first")


def test_gaps_of_sequences():
    assert find_gaps([1, 2, 5, 6, 9]) == [[3, 4], [7, 8]]
    assert find_gaps([]) == find_gaps([4]) == []


def test_live_scaling_is_the_core_scaling(setup):
    setup.channels.filter(name="SG1").update(zero_mv_v=0.15, reversed=True)
    setup.channels.filter(name="e clip").update(
        scaling_kind="two_points", point_1_mv_v=0.1, point_1_value=2e-3, point_2_mv_v=1.7,
        point_2_value=-5e-3, zero_mv_v=0.02,
    )  # fmt: skip
    channels = freeze(setup).channels
    ratio = np.random.default_rng(2).uniform(-5e-3, 5e-3, (3, 50))
    wanted = [to_quantity(c, r) for c, r in zip(channels, ratio, strict=True)]
    np.testing.assert_allclose(LiveScaling(channels).apply(ratio), wanted, rtol=1e-9, atol=1e-12)


# The wire format, written by the rig and read by the driver, which share no code.


def rig_block(sequence=3):
    counts = np.arange(24, dtype=np.int32).reshape(3, 8) - 12
    return RigBlock(2, sequence, 77, 1000.0, np.full(8, 2e-3, np.float32), counts)


def test_blocks_pass_the_wire_in_any_pieces():
    data = rig_block(3).encode() + rig_block(4).encode(again=True)
    reader, found = BlockReader(), []
    for i in range(0, len(data), 7):
        reader.feed(data[i : i + 7])
        while one := reader.next_block():
            found.append(one)
    assert [(b.sequence, b.again) for b in found] == [(3, False), (4, True)]
    np.testing.assert_array_equal(found[0].counts, rig_block().counts)
    assert found[0].full_scale == pytest.approx(np.full(8, 2e-3))


@pytest.mark.parametrize(
    ("spoil", "words"),
    [
        (lambda d: b"HTTP/1.1 200 OK\r\n" + d, "not its protocol"),
        (lambda d: d[:-1] + b"\xff", "damaged"),
        (lambda d: d[: HEADER.size - 8] + b"\xff" * 8 + d[HEADER.size :], "not its protocol"),
    ],
    ids=["another protocol", "a flipped byte", "absurd size"],
)
def test_nonsense_on_the_wire_is_told_not_stored(spoil, words):
    reader = BlockReader()
    reader.feed(spoil(rig_block().encode()))
    with pytest.raises(DriverError, match=words):
        reader.next_block()


@pytest.mark.django_db(transaction=True)
def test_a_database_that_refuses_for_a_while_loses_nothing(run):
    """The writer holds what the database does not take, and says so."""
    from yoke_server.record.store import Writer

    from tests.processes import wait_for

    writer = Writer()
    writer.start()
    made = Session(run, writer, FULL, lambda a, b: None)
    made.open(block(10))
    with connection.cursor() as cursor:
        cursor.execute("ALTER TABLE record_block ADD CONSTRAINT full_disk CHECK (sequence < 12)")
    for sequence in range(10, 15):
        made.push(block(sequence))
    wait_for(lambda: writer.trouble, "the writer's complaint")
    assert "full_disk" in writer.trouble
    with connection.cursor() as cursor:
        cursor.execute("ALTER TABLE record_block DROP CONSTRAINT full_disk")
    writer.finish()
    assert stored(made) == list(range(10, 15))
    assert writer.trouble == ""
