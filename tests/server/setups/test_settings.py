"""Changing a setup: each bad value names its field, each change can be undone."""

from concurrent.futures import ThreadPoolExecutor

import pytest
from django.core.exceptions import ValidationError
from django.db import connection, connections
from django.test import Client
from yoke_server.api import setup_page as queries
from yoke_server.bench.models import Input
from yoke_server.calibrate.services import change_scaling, keep_zeros
from yoke_server.kinds.inputs.bridge.scaling import GaugeScaling
from yoke_server.kinds.orders.measuring import RestReading
from yoke_server.ledger.models import Entry
from yoke_server.sensors.models import Sensor
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import Balance, Channel, Setup
from yoke_server.setups.services import add_measured, plain
from yoke_server.setups.undoing import undo
from yoke_server.wire.services import remove_channel

from tests.problems import code_of
from tests.specs import gauge, quarter, rated, two_points

JSON = "application/json"


@pytest.fixture
def client(as_role):
    return as_role("engineer")


def channel(setup, name):
    return setup.channels.get(name=name)


FLAT = {"kind": "flat", "width_m": 12.5e-3, "thickness_m": 3e-3, "gauge_length_m": 50e-3}
SINE = {"kind": "force_sine", "lowest_n": 200.0, "highest_n": 1800.0, "frequency_hz": 6.0}


@pytest.mark.parametrize(
    ("name", "path", "body", "field"),
    [
        ("SG1", "/scaling", gauge(0.0), "scaling.gauge_factor"),
        ("SG1", "/scaling", gauge(-2.1), "scaling.gauge_factor"),
        ("SG1", "/scaling", gauge("two"), "scaling.gauge_factor"),
        ("F", "/scaling", rated(capacity=0.0), "scaling.capacity"),
        ("F", "/scaling", rated(0.0), "rated_output"),
        ("F", "/scaling", {"scaling": {"kind": "magic"}}, "scaling"),
        (
            "F",
            "/scaling",
            two_points(1e-3, 0.0, 1e-3, 5.0),
            "signal_2",
        ),
        ("F", "/scaling", {"scaling": {"kind": "gauge"}}, "scaling.gauge_factor"),
        ("F", "", quarter(resistance_ohm=0.0), "wiring.resistance_ohm"),
        ("F", "", {"name": ""}, "name"),
        ("F", "", {"name": "SG1"}, "name"),
    ],
    ids=str,
)
def test_a_bad_channel_value_names_its_field_and_stores_nothing(
    client, setup, name, path, body, field
):
    row = channel(setup, name)
    before = Channel.objects.filter(pk=row.pk).values().get()
    answer = client.patch(f"/api/channels/{row.pk}{path}", body, content_type=JSON)
    assert answer.status_code in (409, 422), answer.content
    assert answer["Content-Type"] == "application/problem+json"
    problem = answer.json()
    assert problem["field"] == field
    assert problem["hint"]
    assert Channel.objects.filter(pk=row.pk).values().get() == before


@pytest.mark.parametrize(
    ("body", "field"),
    [
        ({"piece": FLAT | {"width_m": 0}}, "piece.width_m"),
        ({"piece": FLAT | {"thickness_m": -0.003}}, "piece.thickness_m"),
        ({"piece": FLAT | {"gauge_length_m": "long"}}, "piece.gauge_length_m"),
        ({"piece": {"kind": "round", "gauge_length_m": 0.05}}, "piece.diameter_m"),
        ({"motion": SINE | {"highest_n": 100}}, "motion.highest_n"),
        ({"stops": [{"kind": "force_drop", "share": 1}]}, "stops.0.share"),
        ({"stops": [{"kind": "time", "seconds": 5}, {"kind": "luck"}]}, "stops.1"),
        ({"run_name_pattern": "{operator}"}, "run_name_pattern"),
        ({"run_name_pattern": "{specimen"}, "run_name_pattern"),
    ],
    ids=str,
)
def test_a_bad_setup_value_names_its_field(client, setup, body, field):
    before = plain(Setup.objects.get(pk=setup.pk))
    answer = client.patch(f"/api/setups/{setup.pk}", body, content_type=JSON)
    assert answer.status_code == 422
    assert answer.json()["field"] == field
    assert plain(Setup.objects.get(pk=setup.pk)) == before


@pytest.mark.parametrize(
    "spec",
    [
        {"kind": "gauge", "gauge_factor": 0.0},
        {"kind": "gauge", "gauge_factor": 2.0, "colour": "red"},
        {"kind": "magic"},
    ],
    ids=str,
)
def test_no_way_leads_nonsense_into_a_column_of_specs(setup, spec):
    with pytest.raises(ValidationError):
        setup.channels.update(scaling=spec)


def test_a_free_input_is_given_a_sensor_once(client, setup):
    sensor = Sensor.objects.get(serial="lot 0744-1")
    plug = Input.objects.get(device__label="A1", number=4)
    body = {"input_id": plug.pk, "sensor_id": sensor.pk, "name": "SG3"}
    made = client.post(f"/api/setups/{setup.pk}/channels", body, content_type=JSON)
    assert made.status_code == 201
    wired = made.json()["channels"][3]
    assert (wired["scaling"]["gauge_factor"], wired["active_arms"], wired["unit"]) == (
        2.05,
        [1],
        "µm/m",
    )
    assert (wired["device_label"], wired["input_label"]) == ("A1", "1.4")
    again = client.post(f"/api/setups/{setup.pk}/channels", body, content_type=JSON)
    assert again.status_code == 409
    assert code_of(again) == "input-unfit"
    beyond = {**body, "input_id": 10**6}
    answer = client.post(f"/api/setups/{setup.pk}/channels", beyond, content_type=JSON)
    assert answer.status_code == 404


def test_each_action_is_one_revision_and_what_changes_nothing_is_none(client, setup):
    row = channel(setup, "SG1")
    before = setup.version
    for _ in range(2):
        url = f"/api/channels/{row.pk}/scaling"
        client.patch(url, gauge(2.1), content_type=JSON)
    client.post(f"/api/setups/{setup.pk}/undo")
    found = list(setup.revisions.filter(number__gte=before))
    assert [r.number for r in found] == [before, before + 1, before + 2]
    assert found[0].fingerprint == found[2].fingerprint != found[1].fingerprint
    factors = [
        next(c["scaling"]["gauge_factor"] for c in r.document["channels"] if c["name"] == "SG1")
        for r in found
    ]
    assert factors == [2.08, 2.1, 2.08]


def test_a_fill_down_is_one_revision_and_one_undo(client, setup):
    rows = list(setup.channels.all())
    swapped = {"F": "e clip", "e clip": "F"}
    changes = [{"id": r.pk, "decimals": 5, "name": swapped.get(r.name, r.name)} for r in rows]
    url, before = f"/api/setups/{setup.pk}", setup.version
    answer = client.patch(f"{url}/channels", {"channels": changes}, content_type=JSON).json()
    assert answer["version"] == before + 1
    assert {c["decimals"] for c in answer["channels"]} == {5}
    assert [c["name"] for c in answer["channels"]][:2] == ["e clip", "F"]
    client.post(f"{url}/undo")
    again = {r.pk: (r.decimals, r.name) for r in setup.channels.all()}
    assert again == {r.pk: (r.decimals, r.name) for r in rows}
    twice = [{"id": r.pk, "name": "one"} for r in rows]
    refused = client.patch(f"{url}/channels", {"channels": twice}, content_type=JSON)
    assert (refused.status_code, refused.json()["field"]) == (409, "name")
    unknown = client.patch(f"{url}/channels", {"channels": [{"id": 10**6}]}, content_type=JSON)
    assert unknown.status_code == 404


def test_the_rate_of_each_device_is_its_own(client, setup):
    device = setup.bench.devices.get(label="A2")
    url = f"/api/setups/{setup.pk}/devices/{device.pk}"
    answer = client.patch(url, {"rate_hz": 2000}, content_type=JSON).json()
    assert {r["device_label"]: r["rate_hz"] for r in answer["rates"]} == {"A1": 1000, "A2": 2000}
    for wrong in (1e9, 0, "fast"):
        refused = client.patch(url, {"rate_hz": wrong}, content_type=JSON)
        assert (refused.status_code, refused.json()["field"]) == (422, "rate_hz")
    frame = setup.bench.devices.get(label="Load frame")
    other = f"/api/setups/{setup.pk}/devices/{frame.pk}"
    assert client.patch(other, {"rate_hz": 100}, content_type=JSON).status_code == 404


@pytest.mark.django_db(transaction=True)
def test_twenty_edits_at_once_leave_a_ledger_that_fits_together(setup, engineer):
    row = channel(setup, "SG1")

    def edit(factor):
        try:
            change_scaling(engineer, row.pk, scaling=GaugeScaling(gauge_factor=factor))
        finally:
            connection.close()

    factors = [2.0 + i / 100 for i in range(1, 8)] + [2.1 + i / 100 for i in range(13)]
    with ThreadPoolExecutor(8) as pool:
        list(pool.map(edit, factors))
    entries = Entry.objects.filter(action="Changed the scaling of SG1").order_by("pk")
    changes = [e.changes[0] for e in entries]
    chain = [2.08, *(c["after"]["scaling"]["gauge_factor"] for c in changes)]
    assert len(changes) == 20
    assert [c["before"]["scaling"]["gauge_factor"] for c in changes] == chain[:-1]
    for earlier in reversed(chain[:-1]):
        undo(engineer, setup.pk)
        row.refresh_from_db()
        assert row.scaling.gauge_factor == earlier


def test_an_undo_that_would_bury_somebody_elses_change_says_so(client, setup):
    row = channel(setup, "SG1")
    client.patch(f"/api/channels/{row.pk}/scaling", gauge(2.2), content_type=JSON)
    Channel.objects.filter(pk=row.pk).update(
        scaling=GaugeScaling(gauge_factor=2.3)
    )  # as if it came another way
    answer = client.post(f"/api/setups/{setup.pk}/undo")
    assert answer.status_code == 409
    assert code_of(answer) == "changed-meanwhile"
    row.refresh_from_db()
    assert row.scaling.gauge_factor == 2.3


def test_zeros_are_added_and_an_undo_adds_the_one_before(setup, engineer):
    key = channel(setup, "F").key
    for zero in (0.1, 0.2):
        add_measured(engineer, setup, "Zeroed F", [(Balance, key, {"zero": zero})])
    seen = []
    for _ in range(2):
        undo(engineer, setup.pk)
        seen.append(freeze(setup).channels[0].zero)
    assert seen == [0.1, None]
    history = Balance.objects.filter(channel_key=key).order_by("pk")
    assert [b.zero for b in history] == [0.1, 0.2, 0.1, None]


def test_changes_are_undone_and_redone_in_order(client, setup):
    row = channel(setup, "SG1")
    for factor in (2.1, 2.2):
        client.patch(f"/api/channels/{row.pk}/scaling", gauge(factor), content_type=JSON)
    seen = []
    for redo in ("", "", "?redo=true", "?redo=true"):
        assert client.post(f"/api/setups/{setup.pk}/undo{redo}").status_code == 200
        row.refresh_from_db()
        seen.append(row.scaling.gauge_factor)
    assert seen == [2.1, 2.08, 2.1, 2.2]
    assert client.post(f"/api/setups/{setup.pk}/undo?redo=true").status_code == 409


def test_a_new_change_ends_redo(client, setup):
    row = channel(setup, "SG1")
    url = f"/api/channels/{row.pk}/scaling"
    client.patch(url, gauge(2.1), content_type=JSON)
    client.post(f"/api/setups/{setup.pk}/undo")
    client.patch(url, gauge(2.3), content_type=JSON)
    assert client.get(f"/api/setups/{setup.pk}").json()["redo"] == ""


def test_taking_a_sensor_off_is_undone_with_all_its_settings(client, setup):
    row = channel(setup, "F")
    before = Channel.objects.filter(pk=row.pk).values().get()
    assert client.delete(f"/api/channels/{row.pk}").status_code == 204
    client.post(f"/api/setups/{setup.pk}/undo")
    assert Channel.objects.filter(pk=row.pk).values().get() == before


def test_only_who_may_change_scaling_may_undo_it(client, as_role, setup):
    row = channel(setup, "SG1")
    client.patch(f"/api/channels/{row.pk}", {"name": "no scaling"}, content_type=JSON)
    undo = f"/api/setups/{setup.pk}/undo"
    assert as_role("technician").post(undo).status_code == 200
    client.patch(f"/api/channels/{row.pk}/scaling", gauge(2.2), content_type=JSON)
    assert as_role("technician").post(undo).status_code == 403
    row.refresh_from_db()
    assert row.scaling.gauge_factor == 2.2


def test_the_ledger_says_who_changed_what(client, setup):
    row = channel(setup, "F")
    client.patch(f"/api/channels/{row.pk}/scaling", rated(capacity=20e3), content_type=JSON)
    entry = Entry.objects.latest("id")
    assert (entry.actor.username, entry.action) == ("engineer", "Changed the scaling of F")
    change = entry.changes[0]
    assert (change["before"], change["after"]) == (rated(), rated(capacity=20e3))


def test_a_technician_zeroes_but_does_not_scale(as_role, setup):
    answer = as_role("technician").patch(
        f"/api/channels/{channel(setup, 'F').pk}/scaling", rated(capacity=1.0), content_type=JSON
    )
    assert answer.status_code == 403


def test_a_setup_without_channels_cannot_start(as_role, setup):
    client = as_role("technician")
    setup.channels.all().delete()
    client.post(f"/api/benches/{setup.bench_id}/yoke", content_type="application/json")
    answer = client.post(
        f"/api/setups/{setup.pk}/runs", {"version": setup.version}, content_type=JSON
    )
    assert answer.status_code == 409
    assert code_of(answer) == "preflight"
    gaps = client.get(f"/api/setups/{setup.pk}").json()["preflight"]
    assert (gaps[0]["code"], gaps[0]["blocks"]) == ("no_channel", True)


@pytest.mark.django_db(transaction=True)
def test_a_setup_is_read_as_it_stood_at_one_moment(client, setup, engineer, monkeypatch):
    """Somebody takes a sensor off between two queries of one read."""
    victim = channel(setup, "SG1")

    def freeze_then_lose_one(*given):
        frozen = freeze(*given)
        with ThreadPoolExecutor(1) as other:
            other.submit(remove_channel, engineer, victim.pk).result()
            other.submit(connections.close_all).result()
        return frozen

    monkeypatch.setattr(queries, "freeze", freeze_then_lose_one)
    answer = client.get(f"/api/setups/{setup.pk}")
    assert answer.status_code == 200
    assert victim.name in [c["name"] for c in answer.json()["channels"]]
    assert not Channel.objects.filter(pk=victim.pk).exists()


@pytest.mark.django_db(transaction=True)
def test_removed_and_changed_at_once_is_one_removal_and_nothing_else_goes_wrong(as_role, setup):
    row = channel(setup, "SG1")
    url = f"/api/channels/{row.pk}"
    client = as_role("engineer")
    cookie = client.cookies

    def at_once(i):
        one = Client()
        one.cookies = cookie
        try:
            if i % 2:
                return one.delete(url).status_code
            return one.patch(url, {"decimals": i % 5}, content_type=JSON).status_code
        finally:
            connection.close()

    with ThreadPoolExecutor(8) as pool:
        found = list(pool.map(at_once, range(32)))
    assert set(found) <= {200, 204, 404}
    assert found.count(204) == 1
    assert Entry.objects.filter(action__startswith="Took SG1 off").count() == 1


def start(client, setup, version):
    return client.post(f"/api/setups/{setup.pk}/runs", {"version": version}, content_type=JSON)


def test_a_start_names_the_version_that_was_seen_and_is_refused_with_what_changed(as_role, setup):
    client = as_role("technician")
    client.post(f"/api/benches/{setup.bench_id}/yoke", content_type=JSON)
    seen = client.get(f"/api/setups/{setup.pk}").json()["version"]
    client.patch(
        f"/api/setups/{setup.pk}", {"stops": [{"kind": "time", "seconds": 99.0}]}, content_type=JSON
    )
    answer = start(client, setup, seen)
    assert (answer.status_code, answer.json()["field"]) == (409, "version")
    assert code_of(answer) == "changed-meanwhile"
    assert start(client, setup, 999).json()["title"] == "Tension has no version 999."
    assert not setup.bench.orders.exists()


def test_what_was_only_measured_since_is_no_change(as_role, setup, engineer):
    client = as_role("technician")
    client.post(f"/api/benches/{setup.bench_id}/yoke", content_type=JSON)
    seen = client.get(f"/api/setups/{setup.pk}").json()["version"]
    f = channel(setup, "F")
    keep_zeros(engineer, setup.pk, {f.key: RestReading(mean=1e-5, deviation=0.0, clipped=False)})
    setup.refresh_from_db()
    assert setup.version > seen
    assert start(client, setup, seen).json().get("field") != "version"


@pytest.mark.parametrize(
    "change", [{"stops": []}, {"motion": {"kind": "none"}}], ids=["stops", "motion"]
)
def test_what_a_run_does_is_whose_who_drives_the_bench_with_it(as_role, setup, change):
    driver, other = as_role("engineer"), as_role("technician")
    driver.post(f"/api/benches/{setup.bench_id}/yoke", content_type=JSON)
    path = f"/api/setups/{setup.pk}"
    answer = other.patch(path, change, content_type=JSON)
    assert answer.status_code == 409
    assert "yoke" in (answer.json()["title"] + answer.json().get("hint", "")).lower()
    assert other.patch(path, {"specimen": "C9"}, content_type=JSON).status_code == 200
    assert driver.patch(path, change, content_type=JSON).status_code == 200
    assert other.post(f"{path}/undo").status_code == 409  # nor is it taken back


def test_the_curve_of_a_channel_that_was_taken_off_meanwhile_is_answered(
    as_role, setup, monkeypatch
):
    from yoke_server.setups import freezing

    monkeypatch.setattr(freezing, "freeze_channels", lambda setup: [])
    answer = as_role("engineer").get(f"/api/channels/{channel(setup, 'F').pk}/curve")
    assert answer.status_code == 404


def test_another_unit_brings_decimals_that_suit_it(client, setup):
    force = channel(setup, "F")

    def change(**body):
        answer = client.patch(f"/api/channels/{force.pk}", body, content_type=JSON)
        return next(c for c in answer.json()["channels"] if c["id"] == force.pk)["decimals"]

    assert change(unit="N") == 0
    assert change(unit="kN") == 3
    assert change(unit="N", decimals=2) == 2
    assert change(decimals=4) == 4
