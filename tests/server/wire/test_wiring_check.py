"""The wiring check from the order to the words, with a real rig that has faults."""

import pytest
from yoke_core.wiring.causes import Kind
from yoke_server.kinds.orders.measuring import WiringReading
from yoke_server.wire.check import services
from yoke_server.wire.check.words import SENTENCES
from yoke_server.wire.models import WiringCheck

from tests.problems import code_of
from tests.specs import quarter

JSON = "application/json"

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def client(driving, settings):
    settings.STAND_INS = True
    return driving("technician")


def channel(client, setup, name):
    found = client.get(f"/api/setups/{setup.pk}").json()
    return next(c for c in found["channels"] if c["name"] == name)


def check(client, setup, *names):
    numbers = list(setup.channels.filter(name__in=names).values_list("pk", flat=True))
    answer = client.post(
        f"/api/setups/{setup.pk}/wiring-check", {"channels": numbers}, content_type=JSON
    )
    assert answer.status_code == 200, answer.content
    return {c["name"]: c["check"] for c in answer.json()["channels"]}


def put(client, setup, device, number, faults):
    row = setup.bench.devices.get(label=device)
    body = {"input": number, "faults": faults}
    return client.post(f"/api/devices/{row.pk}/faults", body, content_type=JSON)


def wiring_gaps(answer):
    return [g for g in answer.json()["preflight"] if g["code"] == "wiring"]


def test_five_faults_on_a_bench_are_found_and_named(lab, client, setup):
    well = check(client, setup, "F", "e clip", "SG1", "SG2")
    assert {n: c["title"] for n, c in well.items()} == dict.fromkeys(well, "All well")
    for device, number, faults in [
        ("A1", 1, "swapped 1 6"),
        ("A1", 2, "broken 5"),
        ("A1", 3, "broken 5"),
        ("A2", 1, "leak 2e7 0.75, hum 3e-5"),
    ]:
        assert put(client, setup, device, number, faults).status_code == 204
    found = check(client, setup, "F", "e clip", "SG1", "SG2")
    assert found["F"]["title"] == "Brown core and blue core are swapped, pins 1 and 6"
    assert found["F"]["hint"] == "Put the brown core on pin 1 and the blue core on pin 6."
    assert found["e clip"]["title"] == "Grey core is broken between pin 5 and the bridge"
    assert found["SG1"]["title"] == "Green core is broken between pin 5 and the grid"
    assert (found["SG1"]["causes"][0]["pins"], found["SG1"]["old"]) == ([5], False)
    assert found["SG2"]["title"].startswith("Insulation is poor, 20")
    assert "Mains hum of" in found["SG2"]["title"]
    gaps = [
        g
        for g in client.get(f"/api/setups/{setup.pk}").json()["preflight"]
        if g["code"] == "wiring"
    ]
    assert [g["text"].split(":")[0] for g in gaps] == ["F", "e clip", "SG1", "SG2"]
    assert put(client, setup, "A1", 3, "").status_code == 204
    assert check(client, setup, "SG1")["SG1"]["passed"]


def test_two_causes_that_read_alike_are_both_named_with_what_parts_them(lab, client, setup):
    put(client, setup, "A1", 3, "broken 1")
    found = check(client, setup, "SG1")["SG1"]
    titles = [found["title"], *(o["title"] for o in found["others"])]
    assert titles == ["Brown core is broken between pin 1 and the grid", "The grid is open"]
    assert found["parted_by"].startswith("Measure ")
    assert "Ω means that it is" in found["parted_by"]
    bad = {f["name"] for f in found["findings"] if f["passed"] is False}
    assert bad == {"Brown core, pin 1", "Grid and brown core"}


def test_a_check_of_another_wiring_is_an_old_one(lab, client, setup):
    put(client, setup, "A1", 3, "resistance 0.34286")
    assert (
        check(client, setup, "SG1")["SG1"]["title"]
        == "Grid reads 120.1\u2009Ω, 350.0\u2009Ω is set"
    )
    path = f"/api/channels/{channel(client, setup, 'SG1')['id']}"
    answer = client.patch(path, quarter(resistance_ohm=120.0), content_type=JSON)
    assert answer.status_code == 200
    row = channel(client, setup, "SG1")
    assert row["check"]["old"] is True
    assert wiring_gaps(answer) == []
    assert check(client, setup, "SG1")["SG1"]["title"] == "All well"
    assert WiringCheck.objects.filter(channel_key=row["key"]).count() == 2


def test_what_was_changed_while_it_was_checked_keeps_no_verdict(setup, engineer):
    row = setup.channels.get(name="SG1")
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(services, "_check", lambda *a: pytest.fail("judged as what it was not"))
        assert (
            services.keep_checks(
                engineer,
                setup.pk,
                {row.key: WiringReading(samples={}, probe=None)},
                {row.key: "as before"},
            )
            == 0
        )
    assert not WiringCheck.objects.exists()


def test_what_cannot_be_checked_is_said(lab, client, setup, settings):
    unknown = put(client, setup, "A1", 3, "melted 5")
    assert (unknown.status_code, "known are" in unknown.json()["title"]) == (409, True)
    other = put(client, setup, "M1", 1, "broken 1")
    assert (other.status_code, other.json()["field"]) == (409, "device_id")
    path = f"/api/setups/{setup.pk}/wiring-check"
    assert client.post(path, {"channels": [999999]}, content_type=JSON).status_code == 404
    assert client.post(path, {"channels": []}, content_type=JSON).status_code == 422
    settings.STAND_INS = False
    assert put(client, setup, "A1", 3, "broken 5").json()["field"] == "device_id"
    client.delete(f"/api/benches/{setup.bench_id}/yoke")
    mine = channel(client, setup, "F")["id"]
    refused = client.post(path, {"channels": [mine]}, content_type=JSON)
    assert (refused.status_code, code_of(refused)) == (409, "yoke-needed")


def test_every_kind_of_cause_has_its_words():
    assert set(SENTENCES) == set(Kind)
