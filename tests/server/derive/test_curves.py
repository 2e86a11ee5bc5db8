"""Runs over each other: instants, windows against numpy on all samples, pages."""

from uuid import uuid4

import numpy as np
import pytest
from yoke_server.derive.inputs import whole
from yoke_server.derive.models import CurvePage
from yoke_server.record.models import Marker

from tests.recorded import FULL, PER_BLOCK, begin, block, close, keeper, stream_of

pytestmark = pytest.mark.django_db
JSON = "application/json"
BLOCKS, LATE = 30, {1: 0.4373, 2: 1.2051}


def wave_of(number, t):
    """A ramp that begins later in the second run, with a dent at its end."""
    ramp = np.clip(0.3 * (t - LATE[number]), 0, None)
    return ramp + 0.01 * np.sin(2 * np.pi * 3 * t)


def made(setup, number):
    run = begin(setup, number)
    one = keeper(run, stream_of(run))
    for at in range(BLOCKS):
        t = (at * PER_BLOCK + np.arange(PER_BLOCK)) / 1000.0
        rows = np.repeat(wave_of(number, t)[:, None], 8, axis=1)
        one.take(block(at, np.round(FULL * rows).astype(np.int32)))
    return close(run, one)


@pytest.fixture
def runs(setup):
    return [made(setup, 1), made(setup, 2)]


def align(client, runs, **how):
    body = {"runs": [r.pk for r in runs], "align": how}
    answer = client.post("/api/curves/alignment", body, JSON)
    assert answer.status_code == 200, answer.content
    return answer.json()


def window(client, channel, *windows):
    body = {"windows": [dict(zip(("run", "from_s", "to_s"), w, strict=True)) for w in windows]}
    return client.post("/api/curves/window", {**body, "channel": channel}, JSON)


def readings(setup, run, channel):
    """Times of a run of 3 s, and all that a channel reads, SI."""
    key = setup.channels.get(name=channel).key
    return np.arange(3000) / 1000.0, whole(run, key)


def test_a_threshold_is_found_to_a_fraction_of_a_sample(as_role, setup, runs):
    client = as_role("reviewer")
    t, values = readings(setup, runs[0], "SG1")
    level = float((values.min() + values.max()) / 2)
    found = align(client, runs, kind="threshold", channel="SG1", level=level, hysteresis=1e-5)
    for run, one in zip(runs, found, strict=True):
        t, values = readings(setup, run, "SG1")
        above = int(np.argmax(values >= level))
        share = (level - values[above - 1]) / (values[above] - values[above - 1])
        assert one["at_s"] == pytest.approx(t[above - 1] + share * 1e-3, abs=2e-6)
    apart = found[1]["at_s"] - found[0]["at_s"]
    assert apart == pytest.approx(LATE[2] - LATE[1], abs=0.08)


def test_other_instants_and_why_a_run_has_none(as_role, runs):
    client = as_role("reviewer")
    assert [a["at_s"] for a in align(client, runs, kind="start")] == [0.0, 0.0]
    peaks = align(client, runs, kind="peak", channel="F")
    assert all(2.5 < a["at_s"] < 3.0 for a in peaks)
    at_ns = runs[1].start_ns + 700_000_000
    Marker.objects.create(
        run=runs[1], key=uuid4(), at_ns=at_ns, text="Heard a crack", kind="person"
    )
    first, second = align(client, runs, kind="marker", text="crack")
    assert (first["at_s"], first["problem"]) == (
        None, "It has no marker “crack”. Choose the words of another marker.",
    )  # fmt: skip
    assert second["at_s"] == pytest.approx(0.7)
    never = align(client, runs, kind="threshold", channel="F", level=9e8)
    assert "never rises through" in never[0]["problem"]
    assert "no channel Q" in align(client, runs, kind="peak", channel="Q")[0]["problem"]


def test_a_window_is_that_of_its_samples(as_role, setup, runs):
    client = as_role("reviewer")
    t, values = readings(setup, runs[0], "e clip")
    inside = (t >= 1.2345) & (t <= 2.0)
    [row] = window(client, "e clip", (runs[0].pk, 1.2345, 2.0)).json()["rows"]
    wanted = values[inside]
    assert row["count"] == len(wanted)
    assert row["mean"] == pytest.approx(wanted.mean(), rel=1e-5)
    assert row["deviation"] == pytest.approx(wanted.std(ddof=1), rel=1e-4)
    assert row["rms"] == pytest.approx(np.sqrt((wanted**2).mean()), rel=1e-5)
    slope = np.polyfit(t[inside], wanted, 1)[0]
    assert row["slope"] == pytest.approx(slope, rel=1e-4)


def test_windows_that_are_none_say_why_for_each_run(as_role, runs):
    client = as_role("reviewer")
    found = window(client, "F", (runs[0].pk, 70.0, 80.0), (runs[1].pk, 0.0, 1.0)).json()
    far, well = found["rows"]
    assert found["counted"] == 1
    assert "lies outside the run, which lasts to 3.000 s" in far["problem"]
    assert well["count"] > 900
    assert window(client, "F", (runs[0].pk, 2.0, 2.0)).status_code == 422
    assert window(client, "F", (99_999, 0.0, 1.0)).status_code == 404


def test_over_the_runs_those_that_are_left_out_do_not_count(as_role, runs):
    client = as_role("reviewer")
    body = {"windows": [{"run": r.pk, "from_s": 0.0, "to_s": 3.0} for r in runs], "channel": "F"}
    both = client.post("/api/curves/window", body, JSON).json()
    means = [row["mean"] for row in both["rows"]]
    over = {one["figure"]: one for one in both["over"]}
    assert over["mean"]["mean"] == pytest.approx(np.mean(means))
    assert over["mean"]["deviation"] == pytest.approx(np.std(means, ddof=1))
    body["left_out"] = [runs[0].pk]
    one = client.post("/api/curves/window", body, JSON).json()
    assert (one["counted"], len(one["rows"])) == (1, 2)
    assert next(o for o in one["over"] if o["figure"] == "mean") == {
        "figure": "mean", "mean": means[1], "deviation": None,
    }  # fmt: skip


def test_pages_are_kept_by_name_with_the_project(as_role, setup, runs):
    client = as_role("engineer")
    address = f"/api/projects/{setup.project_id}/curve-pages"
    page = {
        "runs": [{"run": runs[0].pk, "left_out": "slipped"}, {"run": runs[1].pk, "shift_s": 0.5}],
        "channels": ["F", "SG1"],
        "align": {"kind": "peak", "channel": "F"},
        "window": {"from_s": 0.5, "to_s": 1.5},
    }
    kept = client.put(address, {"name": "Both", "page": page}, JSON)
    assert kept.status_code == 200, kept.content
    assert kept.json()["page"]["runs"][0]["left_out"] == "slipped"
    client.put(address, {"name": "Both", "page": {**page, "channels": ["F"]}}, JSON)
    [one] = as_role("reviewer").get(address).json()
    assert (one["name"], one["page"]["channels"]) == ("Both", ["F"])
    assert client.delete(f"/api/curve-pages/{one['id']}").status_code == 204
    assert not CurvePage.objects.exists()
    wrong = {**page, "runs": [{"run": 99_999}]}
    assert client.put(address, {"name": "None", "page": wrong}, JSON).status_code == 404


def test_runs_of_a_project_are_found_by_their_words(as_role, setup, runs):
    client = as_role("reviewer")
    address = f"/api/projects/{setup.project_id}/runs"
    assert len(client.get(address).json()["items"]) == 2
    found = client.get(address, {"search": runs[1].name}).json()["items"]
    assert [r["id"] for r in found] == [runs[1].pk]
