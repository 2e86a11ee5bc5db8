"""Changing a setup: each bad value names its field, each change can be undone."""

import pytest
from django.db import IntegrityError, transaction
from yoke_server.ledger.models import Entry
from yoke_server.wire.models import Channel, Sensor, Setup
from yoke_server.wire.services import plain

JSON = "application/json"


@pytest.fixture
def client(as_role):
    return as_role("engineer")


def channel(setup, name):
    return setup.channels.get(name=name)


@pytest.mark.parametrize(
    ("name", "path", "body", "field"),
    [
        ("SG1", "/scaling", {"gauge_factor": 0}, "gauge_factor"),
        ("SG1", "/scaling", {"gauge_factor": -2.1}, "gauge_factor"),
        ("SG1", "/scaling", {"gauge_factor": "two"}, "gauge_factor"),
        ("F", "/scaling", {"capacity": 0}, "capacity"),
        ("F", "/scaling", {"rated_output_mv_v": -1}, "rated_output_mv_v"),
        ("F", "/scaling", {"scaling_kind": "magic"}, "scaling_kind"),
        (
            "F",
            "/scaling",
            {
                "scaling_kind": "two_points",
                "point_1_mv_v": 1,
                "point_1_value": 0,
                "point_2_mv_v": 1,
                "point_2_value": 5,
            },
            "point_2_mv_v",
        ),
        ("F", "/scaling", {"scaling_kind": "strain"}, "gauge_factor"),
        ("F", "", {"resistance_ohm": 0}, "resistance_ohm"),
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
        ({"width_m": 0}, "width_m"),
        ({"thickness_m": -0.003}, "thickness_m"),
        ({"gauge_length_m": 0}, "gauge_length_m"),
        ({"gauge_length_m": "long"}, "gauge_length_m"),
        ({"rate_hz": 1e9}, "rate_hz"),
        ({"force_drop": 1}, "force_drop"),
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
    ("field", "value"),
    [("gauge_factor", 0), ("capacity", -1), ("resistance_ohm", 0), ("excitation_v", -5)],
)
def test_the_database_itself_refuses_nonsense(setup, field, value):
    with pytest.raises(IntegrityError), transaction.atomic():
        setup.channels.update(**{field: value})


def test_a_free_input_is_given_a_sensor_once(client, setup):
    sensor = Sensor.objects.get(serial="lot 0817-2")
    amplifier = setup.bench.amplifiers.get()
    body = {"amplifier_id": amplifier.pk, "input_number": 4, "sensor_id": sensor.pk, "name": "SG2"}
    made = client.post(f"/api/setups/{setup.pk}/channels", body, content_type=JSON)
    assert made.status_code == 201
    wired = made.json()["channels"][3]
    assert (wired["gauge_factor"], wired["active_arms"], wired["unit"]) == (2.08, [1], "µm/m")
    again = client.post(f"/api/setups/{setup.pk}/channels", body, content_type=JSON)
    assert again.status_code == 409
    assert again.json()["title"] == "Input 4 already has SG2."
    beyond = client.post(
        f"/api/setups/{setup.pk}/channels", {**body, "input_number": 9}, content_type=JSON
    )
    assert beyond.json()["title"] == "A1 has inputs 1 to 8."


def test_changes_are_undone_and_redone_in_order(client, setup):
    row = channel(setup, "SG1")
    for factor in (2.1, 2.2):
        client.patch(f"/api/channels/{row.pk}/scaling", {"gauge_factor": factor}, content_type=JSON)
    seen = []
    for redo in ("", "", "?redo=true", "?redo=true"):
        assert client.post(f"/api/setups/{setup.pk}/undo{redo}").status_code == 200
        row.refresh_from_db()
        seen.append(row.gauge_factor)
    assert seen == [2.1, 2.08, 2.1, 2.2]
    assert client.post(f"/api/setups/{setup.pk}/undo?redo=true").status_code == 409


def test_a_new_change_ends_redo(client, setup):
    row = channel(setup, "SG1")
    url = f"/api/channels/{row.pk}/scaling"
    client.patch(url, {"gauge_factor": 2.1}, content_type=JSON)
    client.post(f"/api/setups/{setup.pk}/undo")
    client.patch(url, {"gauge_factor": 2.3}, content_type=JSON)
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
    client.patch(f"/api/channels/{row.pk}/scaling", {"gauge_factor": 2.2}, content_type=JSON)
    assert as_role("technician").post(undo).status_code == 403
    row.refresh_from_db()
    assert row.gauge_factor == 2.2


def test_the_ledger_says_who_changed_what(client, setup):
    row = channel(setup, "F")
    client.patch(f"/api/channels/{row.pk}/scaling", {"capacity": 20e3}, content_type=JSON)
    entry = Entry.objects.latest("id")
    assert (entry.actor.username, entry.action) == ("engineer", "Changed the scaling of F")
    assert (entry.before, entry.after) == ({"capacity": 25e3}, {"capacity": 20e3})


def test_a_technician_zeroes_but_does_not_scale(as_role, setup):
    answer = as_role("technician").patch(
        f"/api/channels/{channel(setup, 'F').pk}/scaling", {"capacity": 1}, content_type=JSON
    )
    assert answer.status_code == 403


def test_a_setup_without_channels_cannot_start(as_role, setup):
    client = as_role("technician")
    setup.channels.all().delete()
    client.post(f"/api/benches/{setup.bench_id}/yoke")
    answer = client.post(f"/api/setups/{setup.pk}/runs", {}, content_type=JSON)
    assert answer.status_code == 409
    assert answer.json()["title"] == "There is no channel to record."
    gaps = client.get(f"/api/setups/{setup.pk}").json()["gaps"]
    assert "No channel is wired" in gaps[0]["text"]
