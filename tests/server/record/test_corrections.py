"""Corrections of recorded runs: what is read changes, samples do not; all runs or none."""

import hashlib

import numpy as np
import pytest
from yoke_server.derive.computing import derive_stale, is_stale
from yoke_server.derive.inputs import times_with, whole
from yoke_server.derive.kinds.cycles.spec import CyclesParameters
from yoke_server.derive.models import Derivation, Recipe
from yoke_server.exchange.rows import exported, header_lines
from yoke_server.kinds.computed import ComputedChannel
from yoke_server.ledger.models import Entry
from yoke_server.record.models import Block, Correction, Run
from yoke_server.record.readings.definitions import corrections_of, readings_of
from yoke_server.record.tasks import make
from yoke_server.report.blocks.channel_table import ChannelTable
from yoke_server.setups.projects import duplicate_setup
from yoke_server.setups.services import keep_revision

from tests.recorded import FULL, PER_BLOCK, begin, block, close, keeper, stream_of

pytestmark = pytest.mark.django_db
JSON = "application/json"
BLOCKS = 20
WHY = "Packet says 2.08"


def counts_of(number):
    t = (number * PER_BLOCK + np.arange(PER_BLOCK)) / 1000.0
    wave = 0.1 * np.sin(2 * np.pi * 10 * t)[:, None] + 0.02 * np.arange(8)[None, :]
    return np.round(FULL * (wave + 0.05 * t[:, None])).astype(np.int32)


def recorded(setup, number=1):
    run = begin(setup, number)
    one = keeper(run, stream_of(run))
    for at in range(BLOCKS):
        one.take(block(at, counts_of(at)))
    return close(run, one)


def fresh(run):
    return Run.objects.select_related("setup", "revision").get(pk=run.pk)


@pytest.fixture
def gauge(setup):
    return setup.channels.get(name="SG1").key


@pytest.fixture
def runs(setup):
    return [recorded(setup, number) for number in (1, 2, 3)]


@pytest.fixture
def client(as_role):
    return as_role("engineer")


def correct(client, setup, runs, correction, reason=WHY):
    body = {"runs": [r.pk for r in runs], "correction": correction, "reason": reason}
    return client.post(f"/api/setups/{setup.pk}/corrections", body, content_type=JSON)


def values(run, key):
    make(run.pk)
    return whole(fresh(run), key)


def hash_of_samples(run):
    rows = Block.objects.filter(stream__in=run.streams.all()).order_by("pk")
    return hashlib.sha256(b"".join(bytes(r.data) for r in rows)).hexdigest()


@pytest.mark.parametrize(
    ("correction", "expected"),
    [
        ({"kind": "scale_correction", "factor": 1.5}, lambda x, t: 1.5 * x),
        ({"kind": "offset_correction", "offset": 1e-4}, lambda x, t: x + 1e-4),
        ({"kind": "sign_correction"}, lambda x, t: -x),
        ({"kind": "detrend"}, lambda x, t: x - np.polyval(np.polyfit(t, x, 1), t)),
        ({"kind": "window_zero", "from_s": 0.5, "to_s": 1.0}, lambda x, t: x - x[500:1000].mean()),
        ({"kind": "tare_correction", "tare": 2e-4}, lambda x, t: x - 2e-4),
    ],
)
def test_what_each_does(client, setup, runs, gauge, correction, expected):
    run, seal = runs[0], runs[0].seal
    before, times = whole(run, gauge), np.arange(BLOCKS * PER_BLOCK) / 1000.0
    samples = hash_of_samples(run)
    answer = correct(client, setup, [run], correction | {"channels": [gauge]})
    assert answer.status_code == 201, answer.content
    assert values(run, gauge) == pytest.approx(expected(before, times), abs=2e-9, rel=1e-6)
    assert hash_of_samples(run) == samples
    assert fresh(run).seal == seal
    assert whole(fresh(runs[1]), gauge) == pytest.approx(before)  # another run


def test_the_others_do_what_their_core_does(client, setup, runs, gauge):
    run, before = runs[0], whole(runs[0], gauge)
    spike = {"kind": "despike", "reach": 3, "deviations": 4.0, "channels": [gauge]}
    low = {"kind": "zero_phase_filter", "corner_hz": 10.0, "order": 2, "channels": [gauge]}
    late = {"kind": "time_shift", "seconds": 0.02, "channels": [gauge]}
    for correction in (spike, low, late):
        assert correct(client, setup, [run], correction).status_code == 201
    found = values(run, gauge)
    # At its corner a filter that goes both ways halves; 20 ms are a fifth of the wave.
    t, inner = np.arange(len(before)) / 1000.0, slice(500, 1500)

    def amplitude(x):
        x = x[inner] - np.polyval(np.polyfit(t[inner], x[inner], 1), t[inner])
        return 2 * np.mean(x * np.exp(2j * np.pi * 10 * t[inner]))

    ratio = amplitude(found) / amplitude(before)
    assert abs(ratio) == pytest.approx(0.5, rel=0.03)
    assert np.angle(ratio) == pytest.approx(2 * np.pi * 10 * 0.02, abs=0.02)
    assert [c.kind for c in corrections_of(fresh(run))] == [
        "despike",
        "zero_phase_filter",
        "time_shift",
    ]


@pytest.mark.parametrize(("to_hz", "kept"), [(100.0, 1.0), (16.0, 0.0)])
def test_resampled_it_is_as_a_lower_rate_would_hold_it(client, setup, runs, gauge, to_hz, kept):
    """The wave has 10 Hz: below 0.4 of 100 Hz, above 0.4 of 16 Hz. The trend stays either way."""
    run, before, inner = runs[0], whole(runs[0], gauge), slice(500, 1500)
    body = {"kind": "resample", "to_hz": to_hz, "channels": [gauge]}
    assert correct(client, setup, [run], body).status_code == 201
    found = values(run, gauge)[inner]
    turns = np.exp(2j * np.pi * 10 * np.arange(1000) / 1000.0)
    share = np.mean((found - found.mean()) * turns) / np.mean(
        (before[inner] - before[inner].mean()) * turns
    )
    assert abs(share) == pytest.approx(kept, abs=0.03)
    assert found.mean() == pytest.approx(before[inner].mean(), rel=1e-3)


def test_a_gauge_factor_put_right_in_many_runs_makes_their_results_stale(
    client, setup, runs, gauge
):
    before = whole(runs[0], gauge)
    recipes = [
        Recipe.objects.create(setup=setup, parameters=CyclesParameters(channel=key))
        for key in (gauge, setup.channels.get(name="F").key)
    ]
    derive_stale(setup.pk)
    highest = Derivation.objects.get(run=runs[0], recipe=recipes[0]).results.get(symbol="max").value
    answer = correct(
        client,
        setup,
        runs,
        {"kind": "gauge_factor_correction", "gauge_factor": 1.04, "channels": [gauge]},
    )
    assert answer.status_code == 201
    assert whole(fresh(runs[2]), gauge) == pytest.approx(before * 2, rel=0.01)

    def stale(run, recipe):
        return is_stale(run.derivations.get(recipe=recipe), fresh(run), recipe)

    assert [[stale(r, recipe) for r in runs] for recipe in recipes] == [[True] * 3, [False] * 3]
    derive_stale(setup.pk)
    assert not any(stale(r, recipe) for r in runs for recipe in recipes)
    renewed = Derivation.objects.get(run=runs[0], recipe=recipes[0])
    assert renewed.results.get(symbol="max").value == pytest.approx(2 * highest, rel=0.01)
    assert renewed.inputs["readings"][gauge]["seal"] == runs[0].seal


def test_a_correction_can_be_switched_named_moved_and_taken_off(client, setup, runs, gauge):
    before = whole(runs[0], gauge)
    twice = {"kind": "scale_correction", "factor": 2.0, "channels": [gauge]}
    more = {"kind": "offset_correction", "offset": 1e-3, "channels": [gauge]}
    keys = [correct(client, setup, runs[:2], c).json()["key"] for c in (twice, more)]
    url = f"/api/setups/{setup.pk}/corrections"
    assert values(runs[0], gauge) == pytest.approx(2 * before + 1e-3)

    def patch(key, **body):
        assert client.patch(f"{url}/{key}", body, content_type=JSON).status_code == 204

    patch(keys[1], position=0)
    assert values(runs[1], gauge) == pytest.approx(2 * (before + 1e-3))
    patch(keys[0], on=False, reason="Only to look")
    assert values(runs[0], gauge) == pytest.approx(before + 1e-3)
    patch(keys[1], name="Cable")
    shown = client.get(f"/api/runs/{runs[0].pk}/readings").json()["corrections"]
    assert [(c["title"], c["said"], c["correction"]["on"]) for c in shown] == [
        ("Cable", "+1000 µm/m", True),
        ("Scale", "× 2", False),
    ]
    assert shown[0]["reason"] == WHY and shown[0]["by"]
    assert client.delete(f"{url}/{keys[1]}").status_code == 204
    assert whole(fresh(runs[0]), gauge) == pytest.approx(before)
    assert client.delete(f"{url}/{keys[1]}").status_code == 404


def test_a_time_base_put_right_moves_the_whole_stream(client, setup, runs, gauge):
    force = setup.channels.get(name="F").key
    body = {"kind": "time_base", "factor": 1e-3, "channels": [gauge]}
    assert correct(client, setup, [runs[0]], body).status_code == 201
    run = fresh(runs[0])
    assert times_with(run, force).segments[-1].end_s == pytest.approx(2e-3)
    assert readings_of(run).rate_hz("A1") == pytest.approx(1e6)
    shown = client.get(f"/api/setups/{setup.pk}/runs").json()["items"]
    ends = {r["number"]: r["duration_s"] for r in shown}
    assert ends[1] == pytest.approx(2e-3) and ends[2] == pytest.approx(2.0)


@pytest.mark.parametrize(
    ("correction", "said"),
    [
        ({"kind": "scale_correction", "factor": 0.0}, "leaves nothing"),
        ({"kind": "zero_phase_filter", "corner_hz": 700.0}, "too high for 1000 samples"),
        ({"kind": "resample", "to_hz": 1000.0}, "is no less"),
        ({"kind": "window_zero", "from_s": 2.0, "to_s": 1.0}, "ends before it begins"),
        ({"kind": "unit_correction", "unit": "kN"}, "no unit of it"),
        ({"kind": "scaling_correction", "scaling": {"kind": "platinum"}}, "cannot be scaled by"),
        ({"kind": "scale_correction", "factor": 2.0, "channels": ["nobody"]}, "not all channels"),
    ],
)
def test_what_cannot_be_is_refused_and_nothing_kept(client, setup, runs, gauge, correction, said):
    answer = correct(client, setup, runs, {"channels": [gauge]} | correction)
    assert answer.status_code == 422
    assert said in str(answer.json())
    assert not Correction.objects.exists()


def test_runs_of_two_setups_are_not_corrected_together(client, setup, runs, gauge, engineer):
    other = duplicate_setup(engineer, setup.pk)
    keep_revision(engineer, other, "test")
    foreign = recorded(other)
    body = {"kind": "scale_correction", "factor": 2.0, "channels": [gauge]}
    answer = correct(client, setup, [*runs, foreign], body)
    assert answer.status_code == 422 and "another setup" in answer.json()["title"]
    assert not Correction.objects.exists()


def test_a_run_that_is_recorded_is_not_corrected(client, setup, runs, gauge):
    running = begin(setup, 9)
    body = {"kind": "scale_correction", "factor": 2.0, "channels": [gauge]}
    answer = correct(client, setup, [*runs, running], body)
    assert answer.status_code == 409 and "still being recorded" in answer.json()["title"]
    assert not Correction.objects.exists()


def test_who_may_not_scale_may_not_correct(as_role, setup, runs, gauge):
    body = {"kind": "scale_correction", "factor": 2.0, "channels": [gauge]}
    assert correct(as_role("technician"), setup, runs, body).status_code == 403
    assert not Correction.objects.exists()


def test_formulas_take_the_corrected_readings(client, setup, runs, gauge):
    setup.computed = [
        ComputedChannel(
            key="double", name="double", unit="µm/m", decimals=1, formula=f"2 * {{{gauge}}}"
        )
    ]
    setup.save()
    before = whole(runs[0], gauge)
    correct(client, setup, runs, {"kind": "detrend", "channels": [gauge]})
    found = values(runs[0], "double")
    assert found == pytest.approx(2 * values(runs[0], gauge), abs=1e-9)
    assert np.abs(found.mean()) < 1e-9 < np.abs(before.mean())
    refused = correct(
        client,
        setup,
        runs,
        {"kind": "gauge_factor_correction", "gauge_factor": 2.0, "channels": ["double"]},
    )
    assert refused.status_code == 422 and "is computed" in refused.json()["title"]


def test_a_file_says_what_was_corrected_and_the_ledger_why(client, setup, runs, gauge):
    correct(
        client, setup, runs[:1], {"kind": "scale_correction", "factor": 2.0, "channels": [gauge]}
    )
    lines = header_lines(exported(runs[0].pk, runs[0].streams.get().pk))
    assert any("SG1" in line and "corrected: scale × 2" in line for line in lines)
    assert Entry.objects.latest("id").action == f"Scale of {runs[0].name}: {WHY}"


def test_before_and_after_can_be_seen_first(client, setup, runs, gauge):
    before = whole(runs[0], gauge)
    for correction, factor in (
        ({"kind": "scale_correction", "factor": 2.0}, 2.0),
        ({"kind": "window_zero", "from_s": 0.0, "to_s": 1e-3}, 1.0),
    ):
        body = {"correction": correction | {"channels": [gauge]}, "channel": gauge, "pixels": 100}
        answer = client.post(f"/api/runs/{runs[0].pk}/corrected-view", body, content_type=JSON)
        assert answer.status_code == 200
        size = int.from_bytes(answer.content[:4], "little")
        low, high = np.frombuffer(answer.content[4 + size :], "<f4").reshape(2, -1)
        assert len(low) <= 50
        assert high.max() - low.min() == pytest.approx(factor * np.ptp(before), rel=1e-3)
    assert not Correction.objects.exists()


def test_what_becomes_stale_is_named_before_anything_is_done(client, setup, runs, gauge):
    for key in (gauge, setup.channels.get(name="F").key):
        Recipe.objects.create(setup=setup, parameters=CyclesParameters(channel=key))
    derive_stale(setup.pk)
    client.post(f"/api/runs/{runs[0].pk}/report")
    body = {
        "runs": [r.pk for r in runs[:2]],
        "correction": {"kind": "scale_correction", "factor": 2.0, "channels": [gauge]},
    }
    url = f"/api/setups/{setup.pk}/corrections/effects"
    found = client.post(url, body, content_type=JSON).json()
    assert [(r["run_name"], r["title"]) for r in found["results"]] == [
        (r.name, "Cycles SG1") for r in runs[:2]
    ]
    assert found["untouched"] == 2
    assert [r["number"] for r in found["reports"]] == [f"R{setup.pk:02d}-001"]
    assert not Correction.objects.exists()


def hints(client, run):
    answer = client.get(f"/api/runs/{run.pk}/hints")
    assert answer.status_code == 200
    return answer.json()


def test_a_hint_names_what_looks_wrong_and_puts_it_right_with_one_key(client, setup, runs, gauge):
    assert hints(client, runs[0]) == []
    slip = {"kind": "scale_correction", "factor": 1000.0, "channels": [gauge]}
    correct(client, setup, runs[1:2], slip)
    Correction.objects.all().delete()
    force = setup.channels.get(name="F")
    force.scaling = force.scaling.model_copy(update={"capacity": 25.0})  # kN taken for N
    force.save()
    keep_revision(None, setup, "test")
    setup.refresh_from_db()
    wrong = recorded(setup, 4)
    (hint,) = [h for h in hints(client, wrong) if h["channel"] == force.key]
    assert hint["text"] == "F looks like kilo values"
    assert "C1 run 3 reached" in hint["reason"] and hint["action"] == "Multiply by 1000"
    assert correct(client, setup, [wrong], hint["correction"]).status_code == 201
    assert whole(fresh(wrong), force.key).max() == pytest.approx(
        whole(fresh(runs[0]), force.key).max(), rel=1e-3
    )
    assert [h for h in hints(client, wrong) if h["channel"] == force.key] == []


def test_flat_and_clipped_channels_are_named(client, setup):
    run = begin(setup)
    one, counts = keeper(run, stream_of(run)), np.zeros((PER_BLOCK, 8), np.int32)
    counts[:, 1] = np.arange(PER_BLOCK)
    counts[50, 1] = FULL
    one.take(block(0, counts))
    close(run, one)
    said = [h["text"] for h in hints(client, run)]
    assert "e clip clipped" in said and "F is flat" in said


def test_a_report_prints_formulas_steps_and_corrections(client, setup, runs, gauge):
    force = setup.channels.get(name="F").key
    double = {"key": "double", "name": "double", "unit": "kN", "decimals": 1}
    setup.computed = [ComputedChannel(**double, formula=f"2 * {{{force}}}")]
    setup.save()
    correct(client, setup, runs[:1], {"kind": "detrend", "channels": [gauge]})
    page = ChannelTable(run=runs[0].pk).html()
    assert "<b>double</b> = 2 * F" in page
    assert f"Detrend of SG1 less its line ({WHY}; " in page
    assert "Corrected after" not in ChannelTable(run=runs[1].pk).html()
