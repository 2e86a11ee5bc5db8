"""Keep rules with the rig and a recorder that is killed: each stream is its whole-array twin."""

import signal

import numpy as np
import pytest
from django.db import connection
from yoke_core.keeping.bursts import BurstPlan
from yoke_core.keeping.changes import Changes
from yoke_core.keeping.decimation import Decimator
from yoke_server.bench.services import save_stand_ins
from yoke_server.exchange.formats.csv import SIGNS, csv_parts
from yoke_server.exchange.rows import exported
from yoke_server.kinds.chain import chain_of
from yoke_server.kinds.keep_rules.base import names_of
from yoke_server.kinds.keep_rules.bursts import Bursts
from yoke_server.kinds.keep_rules.changes import ChangeStep, WhenChanged
from yoke_server.kinds.keep_rules.everything import Everything
from yoke_server.kinds.motions.no_motion import NoMotion
from yoke_server.kinds.stops.time_up import TimeUp
from yoke_server.record.forecast import forecast
from yoke_server.record.models import OPEN_STATES, Run
from yoke_server.record.queries import document_of, length_of, times_of
from yoke_server.record.samples import read
from yoke_server.record.seal import seal_of
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import Setup
from yoke_server.setups.services import keep_revision

from tests import processes
from tests.processes import wait_for
from tests.server.lab import linked, recorder

JSON = "application/json"
SLOW = 1.0
pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.xdist_group("recorder")]


@pytest.fixture
def slow_rig(setup):
    """Slower, so that what it keeps (a minute of its own) outlasts a recorder's new start."""
    with processes.rig(SLOW) as found:
        save_stand_ins(found.ports)
        yield found


@pytest.fixture
def keep(setup, engineer):
    def keep(*rules):
        setup.keep_rules = list(rules)
        setup.save()
        keep_revision(engineer, setup, "Set its keep rules")

    return keep


def start(client, setup, pull=True):
    version = Setup.objects.values_list("version", flat=True).get(pk=setup.pk)
    body = {"version": version, "pull": pull}
    answer = client.post(f"/api/setups/{setup.pk}/runs", body, JSON)
    assert answer.status_code == 201, answer.content
    return Run.objects.get(pk=answer.json()["id"])


def has_kept(stream, samples):
    run = Run.objects.get(pk=stream.run_id)
    assert run.state in OPEN_STATES, list(run.markers.values_list("text", flat=True))
    return length_of(stream) > samples


def ended(run):
    wait_for(lambda: not Run.objects.filter(pk=run.pk, state__in=OPEN_STATES).exists(), "the end")
    run.refresh_from_db()
    return run


def values_of(stream):
    """All planes of a stream, as stored."""
    planes = stream.channels.count() + (stream.layout == "timed")
    return read(stream, list(range(planes)), 0, stream.samples)


def test_killed_in_the_middle_each_rule_goes_on_as_if_nothing_had_been(
    database, setup, slow_rig, driving, keep, told
):
    client, force = driving("technician"), setup.channels.get(name="F")
    rules = [
        Everything(),
        Everything(rate_hz=100.0),
        Bursts(length=1.0, every=2.5),
        WhenChanged(steps=[ChangeStep(channel=force.key, step=150.0)], longest_s=3.0),
    ]
    keep(*rules)
    with recorder(database, speed=SLOW) as first:
        linked(setup)
        run = start(client, setup)
        main = run.streams.get(device_label="A1", rule="everything")
        wait_for(lambda: has_kept(main, 12_000), "12 s of the run")
        first.send_signal(signal.SIGKILL)
        first.wait()
    with recorder(database, speed=SLOW):
        wait_for(lambda: has_kept(main, 24_000), "12 s more")
        assert client.post(f"/api/runs/{run.pk}/stop").status_code == 200
        run = ended(run)
    told(run)
    for label in ("A1", "A2"):
        whole = run.streams.get(device_label=label, rule="everything")
        assert "gap" not in {s.cause for s in whole.segments.all()}
        samples = values_of(whole)
        check_fewer(run, label, samples)
        check_bursts(run, label, whole, samples)
        check_changes(run, label, samples)
    assert seal_of(bytes.fromhex(s.seal) for s in run.streams.order_by("pk")) == run.seal


def check_fewer(run, label, samples):
    stream = run.streams.get(device_label=label, rule="everything 2")
    factor = 10 if label == "A1" else 5
    twin = Decimator(factor, len(samples))
    expected = np.concatenate([twin.push(samples.astype(float)), twin.finish()], axis=1)
    np.testing.assert_allclose(values_of(stream), expected, rtol=1e-6, atol=1e-12)
    assert "gap" not in {s.cause for s in stream.segments.all()}
    seconds = times_of(run, stream).seconds_of(np.arange(stream.samples))
    np.testing.assert_allclose(np.diff(seconds), 0.01, rtol=1e-3)


def check_bursts(run, label, whole, samples):
    stream = run.streams.get(device_label=label, rule="bursts")
    seconds = times_of(run, whole).seconds_of(np.arange(whole.samples))
    kept = values_of(stream)
    times = times_of(run, stream).seconds_of(np.arange(stream.samples))
    assert BurstPlan(1.0, 2.5).covers(times + 1e-4).mean() > 0.99
    expected = BurstPlan(1.0, 2.5).covers(seconds).sum()
    bursts = [s for s in stream.segments.all() if s.cause in ("start", "burst")]
    assert len(bursts) == BurstPlan(1.0, 2.5).until(seconds[-1])
    assert abs(stream.samples - expected) <= len(bursts)  # clocks are known better meanwhile
    nearest = np.clip(np.searchsorted(seconds, times - 2e-4), 0, whole.samples - 1)
    same = (samples[:, nearest] == kept).all(axis=0)
    assert same.mean() > 0.99


def check_changes(run, label, samples):
    stream = run.streams.get(device_label=label, rule="changes")
    seconds = values_of(stream)[-1]
    assert (np.diff(seconds) > 0).all()
    assert np.diff(seconds).max() < 3.002
    if label != "A1":
        lead = run.streams.get(device_label="A1", rule="changes")
        np.testing.assert_array_equal(seconds, values_of(lead)[-1])
        return
    force = next(c for c in document_of(run).channels if c.name == "F")
    place = list(stream.channels.values_list("channel_key", flat=True)).index(force.key)
    newtons = chain_of(force).apply(samples[place].astype(float))
    expected = Changes([150.0], 3000).push(newtons[None, :])
    assert len(expected) > 20
    np.testing.assert_array_equal(values_of(stream)[:-1], samples[:, expected])


def test_without_each_sample_a_run_is_read_by_what_it_keeps(lab, setup, driving, keep):
    client, force = driving("technician"), setup.channels.get(name="F")
    steps = [ChangeStep(channel=force.key, step=1e6)]
    keep(WhenChanged(steps=steps, longest_s=0.2), Everything(rate_hz=50.0))
    run = start(client, setup, pull=False)
    wait_for(lambda: rows_of(client, run, "A1", "everything") > 100, "two seconds")
    assert client.post(f"/api/runs/{run.pk}/stop").status_code == 200
    run = ended(run)
    facts = facts_of(client, run)
    assert facts["duration_s"] > 2
    for key in (force.key, setup.channels.get(name="SG1").key):
        assert len(client.get(f"/api/runs/{run.pk}/view?channel={key}").content) > 200
        answer = client.get(f"/api/runs/{run.pk}/kept?rule=changes&channel={key}")
        assert answer.status_code == 200
    streams = {(s["device"], s["rule"]): s for s in facts["streams"]}
    changes = streams["A1", "changes"]
    assert changes["layout"] == "timed"
    assert changes["end_s"] == pytest.approx(facts["duration_s"], abs=0.5)
    for of in streams.values():
        text = csv_of(run, of)
        rows = [line for line in text.splitlines() if line and line[0] in "0123456789"]
        assert len(rows) == of["samples"]


def facts_of(client, run):
    (found,) = client.get(f"/api/setups/{run.setup_id}/runs").json()["items"]
    return found


def rows_of(client, run, device, rule):
    streams = facts_of(client, run)["streams"]
    return next(s["samples"] for s in streams if (s["device"], s["rule"]) == (device, rule))


def csv_of(run, stream):
    return b"".join(csv_parts(exported(run.pk, stream["id"]), SIGNS["point"])).decode()


def test_a_rule_that_cannot_be_kept_blocks_the_start(setup, driving, keep):
    client, force = driving("technician"), setup.channels.get(name="F")
    gauge = setup.channels.get(name="SG1")
    keep(
        WhenChanged(
            steps=[
                ChangeStep(channel=force.key, step=1.0),
                ChangeStep(channel=gauge.key, step=1e-6),
            ]
        ),
        Everything(legs=[3]),
    )
    page = client.get(f"/api/setups/{setup.pk}").json()
    texts = [i["text"] for i in page["preflight"] if i["code"] == "stop_unfit" and i["blocks"]]
    assert any("cannot be one rule" in text for text in texts) == (
        force.input.device_id != gauge.input.device_id
    )
    assert any("leg 3" in text for text in texts)
    force.recorded = False
    force.save()
    texts = [i["text"] for i in client.get(f"/api/setups/{setup.pk}").json()["preflight"]]
    assert any("not recorded" in text for text in texts)


@pytest.mark.parametrize(
    ("rule", "word"),
    [
        ({"kind": "bursts", "length": 20, "every": 10}, "longer than"),
        ({"kind": "bursts", "unit": "cycles", "length": 2, "every": 10}, "channel and a gate"),
        ({"kind": "everything", "rate_hz": 0}, "at least 0.01"),
        ({"kind": "turning_points", "channel": "0123456789ab", "gate": 0}, "at least"),
        ({"kind": "changes", "steps": []}, "empty"),
        ({"kind": "sometimes"}, ""),
    ],
)
def test_a_rule_that_says_nothing_is_refused(setup, driving, rule, word):
    client = driving("engineer")
    body = {"version": setup.version, "keep_rules": [rule]}
    answer = client.patch(f"/api/setups/{setup.pk}", body, JSON)
    assert answer.status_code == 422, answer.content
    assert word in answer.json()["title"] + answer.json().get("detail", "")
    setup.refresh_from_db()
    assert names_of(setup.keep_rules) == ["everything"]


def test_the_forecast_is_right_within_a_tenth(lab, setup, driving, keep):
    """Of a measurement for 20 s: rows as they are stored, with what is derived of them."""
    client = driving("technician")
    setup.motion, setup.stops = NoMotion(), [TimeUp(seconds=20.0)]
    keep(Everything(), Everything(rate_hz=100.0), Bursts(length=2.0, every=15.0))
    assert forecast(freeze(setup).as_recorded).is_known
    run = ended(start(client, setup, pull=False))
    took = min(s.samples / s.rate_hz for s in run.streams.filter(rule="everything"))
    assert took >= 20.0
    setup.stops = [TimeUp(seconds=took)]  # a busy computer ends it some blocks late
    expected = forecast(freeze(setup).as_recorded)
    for name, rule in zip(names_of(setup.keep_rules), expected.rules, strict=True):
        streams = list(run.streams.filter(rule=name))
        assert sum(s.samples for s in streams) == pytest.approx(rule.samples, rel=0.1)
        with connection.cursor() as cursor:
            cursor.execute(
                "SELECT (SELECT sum(pg_column_size(b.*)) FROM record_block b "
                "WHERE stream_id = ANY(%(of)s)) + (SELECT sum(pg_column_size(e.*)) "
                "FROM record_enveloperow e WHERE stream_id = ANY(%(of)s))",
                {"of": [s.pk for s in streams]},
            )
            (found,) = cursor.fetchone()
        assert float(found) == pytest.approx(rule.nbytes, rel=0.1), name
