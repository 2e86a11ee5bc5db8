"""What screens were shown of filtered and computed channels is what is stored of them, with the
rig and the recorder between; and the same as the worker makes of the raw samples."""

import numpy as np
import pytest
from django.db import connection
from yoke_server.bench.models import Bench
from yoke_server.derive.inputs import times_with, whole
from yoke_server.kinds.steps.filters import LowPass
from yoke_server.live.protocol import HEADER_BYTES, ROW_FIELDS, read_header
from yoke_server.record.models import Run, RunState, Stream
from yoke_server.record.tasks import make
from yoke_server.setups.computed import add_computed

from tests.processes import wait_for

pytestmark = pytest.mark.django_db(transaction=True)
JSON = "application/json"
HEAD, BINS = len(ROW_FIELDS), 5
RINGS_S = 1.5  # after which nothing of a 20 Hz filter's start is left in a float32


class Screen:
    """Keeps the frames of a bench while it is looked at."""

    def __init__(self, bench_id):
        self._bench_id, self._seq, self.frames = bench_id, 0, []

    def look(self):
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT seq, payload FROM bench_liveframe WHERE bench_id = %s AND seq > %s "
                "ORDER BY seq",
                [self._bench_id, self._seq],
            )
            for seq, payload in cursor.fetchall():
                self._seq = seq
                self.frames.append(bytes(payload))


def shown_of(frames, layouts, key, times):
    """(sample of the run, value) of the last sample of each bin that was shown of a channel."""
    for data in frames:
        header = read_header(data)
        channels = layouts.get(header.layout, [])
        if key not in channels or header.run_s < RINGS_S:
            continue
        row = np.frombuffer(data, "<f4", offset=HEADER_BYTES).reshape(header.channels, -1)
        lasts = row[channels.index(key)][HEAD + 2 :: 3]
        segment = [s for s in times.segments if s.start_s < header.run_s][-1]
        end = segment.first + round((header.run_s - segment.start_s) * segment.rate_hz)
        samples = round(0.1 * segment.rate_hz)
        starts = np.arange(BINS) * samples // BINS
        for at, value in zip([*(starts[1:] - 1), samples - 1], lasts, strict=True):
            yield end - samples + at, value


def test_live_equals_afterwards(lab, setup, driving, engineer):
    gauge = setup.channels.get(name="SG1")
    gauge.steps = [LowPass(corner_hz=20.0)]
    gauge.save()
    slope = add_computed(engineer, setup.pk, name="slope", formula="rate(SG1, over 200 ms)")
    client = driving("engineer")
    setup.refresh_from_db()
    wait_for(
        lambda: any(
            slope in layout["channels"]
            for layout in Bench.objects.get(pk=setup.bench_id).state.get("layouts", [])
        ),
        "the computed channel's layout",
    )
    answer = client.post(
        f"/api/setups/{setup.pk}/runs", {"version": setup.version, "pull": False}, JSON
    )
    assert answer.status_code == 201, answer.content
    run, screen = Run.objects.get(pk=answer.json()["id"]), Screen(setup.bench_id)

    def seen_enough():
        screen.look()  # a busy computer drops frames: so many are waited for, not so many seconds
        settled = sum(read_header(frame).run_s >= RINGS_S for frame in screen.frames)
        return settled >= 30

    wait_for(seen_enough, "thirty frames of the run")
    growing = client.get(f"/api/runs/{run.pk}/view?channel={slope}").content
    assert len(growing) > 2000, "what is computed is drawn while the run records"
    layouts = Bench.objects.get(pk=setup.bench_id).state["layouts"]
    layouts = {layout["id"]: layout["channels"] for layout in layouts}
    assert client.post(f"/api/runs/{run.pk}/stop").status_code == 200
    closed = Run.objects.filter(pk=run.pk, state=RunState.KEPT)
    wait_for(closed.exists, "the end of the run")
    run.refresh_from_db()
    kept = {key: whole(run, key).astype("f4") for key in (gauge.key, slope)}
    Stream.everything.filter(run=run, home__isnull=False).delete()
    make(run.pk)
    for key in (gauge.key, slope):
        np.testing.assert_array_equal(kept[key], whole(run, key).astype("f4"))
        values, times = whole(run, key).astype("f4"), times_with(run, key)
        pairs = [p for p in shown_of(screen.frames, layouts, key, times) if p[0] < len(values)]
        assert len(pairs) >= 30
        shown = np.array([value for _, value in pairs])
        stored = values[[sample for sample, _ in pairs]]
        assert np.isfinite(shown).all()
        scale = np.abs(values[np.isfinite(values)]).max()
        np.testing.assert_allclose(shown, stored, rtol=1e-6, atol=2e-6 * scale)
