"""Computed channels of a setup: checked as they are typed, stored with keys, undone, copied."""

import pytest
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import Setup
from yoke_server.setups.revisions.services import make_setup

from tests.problems import code_of

JSON = "application/json"
BENDING = "(SG1 - mean(SG1, last 2 s)) * 205 GPa"


@pytest.fixture
def client(as_role):
    return as_role("engineer")


def add(client, setup, **body):
    url = f"/api/setups/{setup.pk}/computed"
    return client.post(url, {"name": "bending", "formula": BENDING} | body, content_type=JSON)


def change(client, setup, key, **body):
    url = f"/api/setups/{setup.pk}/computed/{key}"
    return client.patch(url, body, content_type=JSON)


def look(client, setup, text, **more):
    body = {"text": text, "cursor": len(text)} | more
    answer = client.post(f"/api/setups/{setup.pk}/formula", body, content_type=JSON)
    assert answer.status_code == 200, answer.content
    return answer.json()


def test_a_computed_channel_is_read_in_what_its_formula_gives(client, setup):
    answer = add(client, setup)
    assert answer.status_code == 201, answer.content
    (made,) = answer.json()["computed"]
    assert (made["name"], made["unit"], made["factor"]) == ("bending", "MPa", 1e6)
    assert (made["formula"], made["device_label"], made["problem"]) == (BENDING, "A1", "")
    assert made["units"][:2] == ["MPa", "GPa"]
    setup.refresh_from_db()
    assert setup.channels.get(name="SG1").key in setup.computed[0].formula
    assert freeze(setup).computed == setup.computed


def test_renaming_a_channel_renames_it_in_formulas(client, setup):
    add(client, setup)
    gauge = setup.channels.get(name="SG1")
    answer = client.patch(f"/api/channels/{gauge.pk}", {"name": "crown left"}, content_type=JSON)
    (shown,) = answer.json()["computed"]
    assert shown["formula"] == BENDING.replace("SG1", "crown left")
    assert shown["problem"] == ""


def test_what_was_removed_is_said_and_nothing_else_fails(client, setup):
    add(client, setup)
    add(client, setup, name="twice", formula="2 * F")
    client.delete(f"/api/channels/{setup.channels.get(name='SG1').pk}")
    shown = client.get(f"/api/setups/{setup.pk}").json()["computed"]
    assert "was removed" in shown[0]["problem"]
    assert (shown[1]["problem"], shown[1]["formula"]) == ("", "2 * F")


def test_it_may_name_other_computed_channels_but_not_itself(client, setup):
    key = add(client, setup).json()["computed"][0]["key"]
    assert add(client, setup, name="half", formula="bending / 2").status_code == 201
    circle = change(client, setup, key, formula="half + 1 MPa")
    assert circle.status_code == 422
    assert "is computed from this channel" in circle.json()["title"]
    used = client.delete(f"/api/setups/{setup.pk}/computed/{key}")
    assert (used.status_code, code_of(used)) == (409, "in-use")


def test_another_formula_keeps_its_unit_where_that_fits(client, setup):
    key = add(client, setup, unit="GPa").json()["computed"][0]["key"]
    kept = change(client, setup, key, formula="SG1 * 70 GPa").json()["computed"][0]
    assert (kept["unit"], kept["formula"]) == ("GPa", "SG1 * 70 GPa")
    other = change(client, setup, key, formula="rate(e clip, over 1 s)").json()["computed"][0]
    assert (other["unit"], other["factor"]) == ("mm/s", 1e-3)
    wrong = change(client, setup, key, unit="kN")
    assert (wrong.status_code, wrong.json()["field"]) == (422, "unit")


def test_what_is_broken_farther_on_is_said_too(client, setup):
    key = add(client, setup).json()["computed"][0]["key"]
    add(client, setup, name="twice", formula="2 * bending")
    add(client, setup, name="more", formula="twice + 5 MPa")
    answer = change(client, setup, key, formula="F")
    assert (answer.status_code, answer.json()["title"][:5]) == (422, "more ")


def test_what_is_broken_by_a_change_is_said_and_nothing_is_stored(client, setup):
    key = add(client, setup).json()["computed"][0]["key"]
    add(client, setup, name="more", formula="bending + 5 MPa")
    answer = change(client, setup, key, formula="F")
    assert answer.status_code == 422
    assert answer.json()["title"].startswith("more could not be computed any more")
    setup.refresh_from_db()
    assert "205 GPa" in setup.computed[0].formula


@pytest.mark.parametrize(
    ("body", "status", "field"),
    [
        ({"name": "SG1"}, 409, "name"),
        ({"name": ""}, 422, "name"),
        ({"formula": ""}, 422, "formula"),
        ({"formula": "F + 3"}, 422, "formula"),
        ({"formula": "F" + " " * 9_999}, 422, "formula"),
        ({"formula": "F" * 20_001}, 422, "formula"),
        ({"decimals": 7}, 422, "decimals"),
        ({"unit": "furlong"}, 422, "unit"),
    ],
)
def test_what_cannot_be_is_refused_with_its_field(client, setup, body, status, field):
    answer = add(client, setup, **body)
    assert (answer.status_code, answer.json()["field"]) == (status, field)
    setup.refresh_from_db()
    assert setup.computed == []


def test_a_channel_is_not_named_like_a_computed_one(client, setup):
    add(client, setup)
    gauge = setup.channels.get(name="SG1")
    one = client.patch(f"/api/channels/{gauge.pk}", {"name": "Bending"}, content_type=JSON)
    many = {"channels": [{"id": gauge.pk, "name": "Bending"}]}
    both = client.patch(f"/api/setups/{setup.pk}/channels", many, content_type=JSON)
    assert [(a.status_code, code_of(a)) for a in (one, both)] == [(409, "name-taken")] * 2


def test_adding_changing_and_taking_away_are_actions_with_undo(client, setup):
    key = add(client, setup).json()["computed"][0]["key"]
    change(client, setup, key, name="bend", decimals=1)
    client.delete(f"/api/setups/{setup.pk}/computed/{key}")
    seen = []
    for _ in range(3):
        client.post(f"/api/setups/{setup.pk}/undo")
        setup.refresh_from_db()
        seen.append([(c.name, c.decimals) for c in setup.computed])
    assert seen == [[("bend", 1)], [("bending", 3)], []]


def test_versions_say_what_changed_in_names(client, setup):
    key = add(client, setup).json()["computed"][0]["key"]
    change(client, setup, key, formula="2 * SG1")
    url = f"/api/setups/{setup.pk}/revisions"
    newest, before, *_ = client.get(url).json()
    said = [(d["subject"], d["field"], d["before"], d["after"]) for d in newest["changed"]]
    assert ("bending", "formula", BENDING, "2 * SG1") in said
    said = [(d["subject"], d["field"], d["before"], d["after"]) for d in before["changed"]]
    assert said == [("bending", "computed as", "", BENDING)]


def test_a_copy_computes_with_its_own_channels(client, setup, engineer):
    add(client, setup)
    add(client, setup, name="half", formula="bending / 2")
    client.post(f"/api/setups/{setup.pk}/duplicate")
    copy = Setup.objects.exclude(pk=setup.pk).get()
    setup.refresh_from_db()
    document = freeze(setup).model_dump(mode="json")
    args = {"bench_id": setup.bench_id, "name": "Again"}
    of_file = make_setup(engineer, setup.project_id, document=document, **args)
    for other in (copy, of_file):
        shown = client.get(f"/api/setups/{other.pk}").json()["computed"]
        assert [c["formula"] for c in shown] == [BENDING, "bending / 2"]
        keys = set(other.channels.values_list("key", flat=True)) | {c["key"] for c in shown}
        for channel in other.computed:
            assert channel.channels <= keys
        assert not keys & {c.key for c in setup.computed}


def test_a_formula_is_looked_at_while_it_is_typed(client, setup):
    found = look(client, setup, BENDING)
    assert (found["unit"], found["problem"]) == ("MPa", "")
    units = [(BENDING[a:b], p["unit"]) for p in found["parts"] for a, b in [p["place"]]]
    assert ("mean(SG1, last 2 s)", "µm/m") in units
    wrong = look(client, setup, "2 * F + 3")
    first, last = wrong["place"]
    assert ("2 * F + 3"[first:last], wrong["proposal"]) == ("3", "3 kN")
    assert look(client, setup, "2 * e c")["suggestions"][0]["text"] == "e clip"
    setup.refresh_from_db()
    assert setup.computed == []


def test_channels_of_several_devices_go_together(client, setup):
    setup.bench.devices.create(label="A9", driver="bridge amplifier", host="127.0.0.1", port=9)
    device = setup.bench.devices.get(label="A9")
    plug = device.inputs.create(number=1, signal="bridge ratio")
    setup.devices.create(device=device)
    gauge = setup.channels.get(name="SG1")
    setup.channels.filter(pk=gauge.pk).update(input=plug)
    assert look(client, setup, "SG1 + SG2")["problem"] == ""
    (made,) = add(client, setup, formula="SG1 + SG2").json()["computed"]
    assert made["device_label"] in ("A1", "A9")
