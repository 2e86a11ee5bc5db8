"""Versions of a setup: what each changed, brought back, sent to a file and made anew from it."""

import json

import pytest
from jsonschema_rs import Draft202012Validator
from yoke_server.bench.models import Bench
from yoke_server.sensors.models import Sensor
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import Balance, Setup
from yoke_server.setups.revisions.differences import differences

from tests.specs import conditioning, gauge, quarter

JSON = "application/json"


@pytest.fixture
def client(as_role):
    return as_role("engineer")


def send(client, method, path, body=None):
    return getattr(client, method)(f"/api/{path}", body or {}, content_type=JSON)


def settings_of(setup):
    """All that a person has set, without what was measured."""
    frozen = freeze(Setup.objects.get(pk=setup.pk))
    return frozen.model_dump(exclude={"setup_id", "name"})


def test_each_version_says_what_it_changed(client, setup):
    row = setup.channels.get(name="SG1")
    send(client, "patch", f"channels/{row.pk}", conditioning(excitation_v=2.5, range_mv_v=40.0))
    send(client, "patch", f"channels/{row.pk}", {"name": "G1"})
    send(client, "patch", f"setups/{setup.pk}", {"specimen": "C7"})
    send(client, "delete", f"channels/{setup.channels.get(name='F').pk}")
    newest = client.get(f"/api/setups/{setup.pk}/revisions").json()[:4]
    said = [
        [(c["subject"], c["field"], c["before"], c["after"]) for c in v["changed"]] for v in newest
    ]
    assert said == [
        [("F", "taken off", "A1.1, LC-2207", "")],
        [("", "specimen", "C1", "C7")],
        [("G1", "name", "SG1", "G1")],
        [("SG1", "excitation", "5 V", "2.5 V")],
    ]
    assert newest[0]["action"] == "Took F off input 1.1"
    assert newest[0]["actor"]
    assert client.get(f"/api/setups/{setup.pk}/revisions?before=1").json() == []


def test_an_earlier_version_is_brought_back_whole_and_undone_at_once(client, setup):
    before, number = settings_of(setup), setup.version
    row = setup.channels.get(name="SG1")
    device = setup.bench.devices.get(label="A1")
    send(client, "patch", f"channels/{row.pk}", quarter(lead_length_m=30.0))
    send(client, "patch", f"channels/{row.pk}/scaling", gauge(1.99))
    send(client, "delete", f"channels/{setup.channels.get(name='F').pk}")
    send(client, "patch", f"setups/{setup.pk}/devices/{device.pk}", {"rate_hz": 200.0})
    send(client, "patch", f"setups/{setup.pk}", {"stops": [], "specimen": "C9"})
    changed = settings_of(setup)
    answer = send(client, "post", f"setups/{setup.pk}/revisions/{number}/restore")
    assert answer.status_code == 200, answer.content
    assert settings_of(setup) == before
    assert send(client, "post", f"setups/{setup.pk}/undo").status_code == 200
    assert settings_of(setup) == changed


def test_what_an_earlier_version_needs_and_is_gone_is_named(client, setup):
    number = setup.version
    send(client, "delete", f"channels/{setup.channels.get(name='F').pk}")
    Sensor.objects.filter(serial="LC-2207").update(serial="LC-9999")
    before = settings_of(setup)
    answer = send(client, "post", f"setups/{setup.pk}/revisions/{number}/restore")
    assert (answer.status_code, answer.json()["hint"]) == (409, "Add it to the library first.")
    assert "no LC-2207, which F needs" in answer.json()["title"]
    assert settings_of(setup) == before


def imported(client, setup, document):
    body = {"bench_id": setup.bench_id, "name": "Again", "document": document}
    return send(client, "post", f"projects/{setup.project_id}/setups/import", body)


def test_a_setup_goes_to_a_file_and_is_made_anew_from_it(client, setup):
    file = client.get(f"/api/setups/{setup.pk}/revisions/{setup.version}/file")
    assert "attachment" in file["Content-Disposition"]
    document = json.loads(file.content)
    answer = imported(client, setup, document)
    assert answer.status_code == 201, answer.content
    again = setup.project.setups.get(name="Again")
    assert differences(freeze(setup), freeze(again))  # other keys: other channels
    assert {c.name for c in again.channels.all()} == {c.name for c in setup.channels.all()}
    keys = set(again.channels.values_list("key", flat=True))
    assert not keys & set(setup.channels.values_list("key", flat=True))
    assert imported(client, setup, document).json()["field"] == "name"


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"schema_version": None}, "no setup of a version that is known"),
        ({"schema_version": 99}, "version that is known"),
        ({"motion": {"kind": "fly"}}, "motion"),
        ({"channels": [{}]}, "channels.0"),
        ({"rates_hz": {"A1": "fast"}}, "rates_hz.A1"),
    ],
    ids=["no version", "later version", "unknown motion", "empty channel", "text for a rate"],
)
def test_a_file_that_is_no_setup_makes_none(client, setup, change, words):
    file = client.get(f"/api/setups/{setup.pk}/revisions/{setup.version}/file")
    before = Setup.objects.count()
    answer = imported(client, setup, json.loads(file.content) | change)
    assert (answer.status_code, words in answer.json()["title"]) == (422, True), answer.content
    assert Setup.objects.count() == before


def begun(client, setup, template, name="From it", bench=None):
    body = {"template_id": template["id"], "bench_id": bench or setup.bench_id, "name": name}
    return send(client, "post", f"projects/{setup.project_id}/setups/from-template", body)


def test_a_template_begins_setups_without_what_was_measured(client, setup, engineer):
    key = setup.channels.get(name="F").key
    Balance.objects.create(setup=setup, channel_key=key, zero=1e-5, actor=engineer.user)
    template = send(client, "post", f"setups/{setup.pk}/template", {"name": "Coupons"}).json()
    assert begun(client, setup, template).status_code == 201
    made = setup.project.setups.get(name="From it")
    ours, theirs = freeze(setup), freeze(made)
    assert [c.name for c in theirs.channels] == [c.name for c in ours.channels]
    assert [c.scaling for c in theirs.channels] == [c.scaling for c in ours.channels]
    assert (theirs.motion, theirs.stops, theirs.rates_hz) == (
        ours.motion,
        ours.stops,
        ours.rates_hz,
    )
    assert ours.channel("force").zero == 1e-5
    assert theirs.channel("force").zero is None
    # Kept again under its name it is replaced; the setup that began with it stays.
    send(client, "delete", f"channels/{setup.channels.get(name='SG1').pk}")
    again = send(client, "post", f"setups/{setup.pk}/template", {"name": "Coupons"}).json()
    assert again["id"] == template["id"]
    assert [t["name"] for t in client.get("/api/templates").json()] == ["Coupons"]
    assert made.channels.count() == 4
    empty = Bench.objects.create(name="Empty")
    answer = begun(client, setup, template, "Elsewhere", empty.pk)
    assert (answer.status_code, answer.json()["title"]) == (
        409,
        "Empty has no input A1.1, which F needs.",
    )
    assert not setup.project.setups.filter(name="Elsewhere").exists()
    assert send(client, "delete", f"templates/{template['id']}").status_code == 204


def test_the_schema_of_a_setup_file_is_published_and_true(client, setup):
    schema = Draft202012Validator(client.get("/api/setup-file/schema").json())
    file = client.get(f"/api/setups/{setup.pk}/revisions/{setup.version}/file")
    document = json.loads(file.content)
    assert schema.is_valid(document)
    assert not schema.is_valid(document | {"motion": {"kind": "fly"}})
