"""The table of steps: averages of what is stored, over the end of each step."""

import numpy as np
import pytest
from yoke_server.kinds.chain import chain_of
from yoke_server.record.models import Marker, MarkerKind
from yoke_server.record.queries import document_of
from yoke_server.setups.freezing import freeze

from tests.recorded import block, record

pytestmark = pytest.mark.django_db
NS = 10**9


def mark(run, number, from_s, to_s, kind=MarkerKind.STEP):
    return Marker.objects.create(
        run=run,
        key=f"00000000-0000-0000-0000-{number:012d}",
        at_ns=run.start_ns + round(to_s * NS),
        from_ns=run.start_ns + round(from_s * NS),
        kind=kind,
        text=f"Step {number}: {100 * number} N",
    )


def test_each_step_has_the_averages_of_its_end(setup, as_role):
    run = record(setup, [block(i) for i in range(10)])
    assert freeze(setup).channels
    length_s = run.streams.get().samples / 1000.0
    mark(run, 1, 0.0, length_s / 2)
    mark(run, 2, length_s / 2, length_s)
    mark(run, 3, length_s + 5, length_s + 6)
    mark(run, 4, 0.0, 0.1, MarkerKind.PERSON)
    rows = as_role("reviewer").get(f"/api/runs/{run.pk}/steps").json()
    assert [row["words"] for row in rows] == ["Step 1: 100 N", "Step 2: 200 N", "Step 3: 300 N"]
    channel = next(c for c in document_of(run).channels if c.device_label == "A1")
    place = [c.channel_key for c in run.streams.get().channels.all()].index(channel.key)
    from yoke_server.record.samples import read

    ratios = read(run.streams.get(), [place], 0, run.streams.get().samples)[0].astype(float)
    half = len(ratios) // 2
    for row, part in zip(rows, (ratios[:half], ratios[half:]), strict=False):
        found = next(a for a in row["averages"] if a["channel"] == channel.key)
        expected = chain_of(channel).apply(part)
        assert found["mean"] == pytest.approx(expected.mean())
        assert found["samples"] == pytest.approx(half, abs=1)
    assert {a["mean"] for a in rows[2]["averages"]} == {None}
    assert np.isfinite(ratios).all()


def test_a_run_without_steps_has_an_empty_table(setup, as_role):
    run = record(setup, [block(0)])
    assert as_role("reviewer").get(f"/api/runs/{run.pk}/steps").json() == []
