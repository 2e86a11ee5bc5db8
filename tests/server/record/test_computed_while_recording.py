"""Computed channels are stored while a run records; what disturbs that costs no run anything."""

import numpy as np
import pytest
from yoke_core.errors import CoreError
from yoke_server.derive.inputs import whole
from yoke_server.kinds.computed import ComputedChannel
from yoke_server.kinds.steps.filters import LowPass
from yoke_server.record.channel_of_run import channel_of_run
from yoke_server.record.models import Run, Stream
from yoke_server.record.readings.definitions import readings_of
from yoke_server.record.readings.live import begin_computed, growing, live_nodes
from yoke_server.record.readings.state import readings_out
from yoke_server.record.recorder.storage.postgres.runs import PostgresRuns
from yoke_server.record.recorder.storage.runs import close_run
from yoke_server.record.recorder.storage.work import Close
from yoke_server.record.recorder.stream.block_order import Missing
from yoke_server.record.recorder.stream.computed_writer import ComputedWriter
from yoke_server.record.store import write_samples
from yoke_server.record.tasks import cancel_readings, make
from yoke_server.setups.services import keep_revision

from tests.recorded import begin, block, keeper, stream_of

pytestmark = pytest.mark.django_db
BLOCKS = 48


def counts_of(number):
    t = (number * 100 + np.arange(100)) / 1000.0
    wave = np.sin(2 * np.pi * 0.7 * t)[:, None] * np.arange(1, 9)[None, :] / 40
    return np.round((2**23 - 1) * wave).astype(np.int32)


@pytest.fixture
def gauge(setup):
    return setup.channels.get(name="SG1")


@pytest.fixture
def wanted(setup, gauge):
    gauge.steps = [LowPass(corner_hz=20.0)]
    gauge.save()
    setup.computed = [
        ComputedChannel(
            key="slope", name="slope", unit="µm/m/s", decimals=2,
            formula=f"rate({{{gauge.key}}}, over 50 ms)",
        )
    ]  # fmt: skip
    setup.save()
    keep_revision(None, setup, "test")
    return setup


class Recorded:
    """A run whose blocks go to its raw stream and to what is computed of them."""

    def __init__(self, setup, room=True):
        self.rows = []
        self.run = begin(setup)
        self.keeper = keeper(self.run, stream_of(self.run))
        self.streams = begin_computed(self.run)
        recorded = readings_of(self.run).recorded
        self.writer = ComputedWriter(
            self.run.pk,
            self.streams,
            live_nodes(recorded)["A1"],
            recorded.of_device("A1"),
            1000.0,
            self.rows.append,
            lambda: 0.0,
            lambda: room,
        )
        told = self.keeper.push_block
        self.keeper.push_block = lambda placed: (told(placed), self.writer.push_block(placed))

    def take(self, numbers):
        for number in numbers:
            self.keeper.take(block(number, counts_of(number)))
        write_samples(self.rows)
        self.rows.clear()

    def close(self):
        closed, computed = self.keeper.close(), self.writer.finish()
        write_samples(self.rows)
        close_run(
            PostgresRuns(self.run.setup.bench_id),
            Close(self.run.pk, "kept", "", [closed], None, computed),
        )
        self.run = Run.objects.select_related("setup", "revision").get(pk=self.run.pk)
        return self.run


def streams(run):
    return Stream.everything.filter(run=run, home__isnull=False)


@pytest.mark.parametrize("missing", [(), (11, 30)])
def test_it_is_what_the_worker_makes_of_the_same_samples(wanted, gauge, missing):
    recorded = Recorded(wanted)
    for number in range(BLOCKS):
        if number in missing:
            recorded.keeper.take(Missing(number, number))
        else:
            recorded.take([number])
    run = recorded.close()
    assert streams(run).filter(complete=True).count() == 2
    ids = set(streams(run).values_list("pk", flat=True))
    make(run.pk)
    assert set(streams(run).values_list("pk", flat=True)) == ids  # nothing was to be made
    kept = {key: whole(run, key) for key in (gauge.key, "slope")}
    streams(run).delete()
    make(run.pk)
    for key, values in kept.items():
        assert len(values) == 100 * (BLOCKS - len(missing))
        assert np.isfinite(values).mean() > 0.5
        np.testing.assert_array_equal(values, whole(run, key))


def test_it_is_drawn_while_the_run_grows(wanted, gauge):
    recorded = Recorded(wanted)
    assert channel_of_run(recorded.run.pk, "slope").times.samples == 0
    recorded.take(range(25))
    found = channel_of_run(recorded.run.pk, "slope")
    assert (found.times.samples, found.times.open) == (2000, True)  # as far as rows are stored
    recorded.take(range(25, 45))
    assert channel_of_run(recorded.run.pk, "slope").times.samples == 4000
    assert {c.share for c in readings_out(recorded.run).channels} == {1.0}


def test_a_formula_that_changed_meanwhile_is_made_anew(wanted):
    recorded = Recorded(wanted)
    recorded.take(range(BLOCKS))
    wanted.computed = [
        wanted.computed[0].model_copy(update={"formula": "2 * " + wanted.computed[0].formula})
    ]
    wanted.save()
    run = recorded.close()
    assert streams(run).filter(complete=True).count() == 1  # the filtered channel
    before = whole_of(recorded.streams["slope"])
    make(run.pk)
    np.testing.assert_allclose(whole(run, "slope"), 2 * before, rtol=1e-6)
    assert streams(run).count() == 2


def whole_of(stream_id):
    blocks = Stream.everything.get(pk=stream_id).blocks.order_by("first_sample")
    return np.concatenate([np.frombuffer(b.data, "<f4") for b in blocks])


def test_without_room_only_raw_samples_are_kept_and_the_worker_makes_the_rest(wanted, gauge):
    recorded = Recorded(wanted, room=False)
    recorded.take(range(BLOCKS))
    run = recorded.close()
    assert not streams(run).filter(complete=True).exists()
    make(run.pk)
    assert len(whole(run, "slope")) == 100 * BLOCKS
    assert streams(run).filter(complete=False).count() == 0


def test_a_signal_that_cannot_be_computed_ends_only_itself(wanted, monkeypatch):
    recorded = Recorded(wanted)
    recorded.take(range(10))

    def fails(readings, follows):
        raise CoreError("signal", "spoilt", "")

    monkeypatch.setattr(recorded.writer._process, "push", fails)
    recorded.take(range(10, BLOCKS))
    run = recorded.close()
    assert run.streams.get().samples == 100 * BLOCKS
    assert not streams(run).filter(complete=True).exists()


def test_nobody_takes_it_away_while_the_run_records(wanted, engineer):
    recorded = Recorded(wanted)
    recorded.take(range(30))
    cancel_readings(engineer, recorded.run)
    assert growing(recorded.run) == recorded.streams
