"""Steps of a channel's reading: refused with the reason, shown part by part, filters drawn."""

import math
from datetime import timedelta

import pytest
from yoke_server.common.clock import laboratory_today
from yoke_server.demo.services import load_fork
from yoke_server.record.queries import document_of
from yoke_server.setups.freezing import freeze_channels
from yoke_server.setups.models import Setup

from tests.recorded import begin

pytestmark = pytest.mark.django_db
JSON = "application/json"
LOW_PASS = {"kind": "low_pass", "corner_hz": 20.0}


@pytest.fixture
def fork(db):
    return load_fork()[0]


def row_of(setup, name):
    return setup.channels.get(name=name)


def put(client, channel, *steps):
    return client.patch(f"/api/channels/{channel.pk}/scaling", {"steps": list(steps)}, JSON)


def steps_of(setup, name):
    return next(c for c in freeze_channels(setup) if c.name == name).steps


def test_steps_are_kept_and_taken_back(as_role, fork):
    client, gauge = as_role("engineer"), row_of(fork, "G4")
    before = steps_of(fork, "G4")
    answer = put(client, gauge, LOW_PASS, {"kind": "transverse_sensitivity", "sensitivity": 0.004})
    assert answer.status_code == 200
    found = next(c for c in answer.json()["channels"] if c["name"] == "G4")
    assert [(s["kind"], s["on"]) for s in found["steps"]] == [
        ("low_pass", True),
        ("transverse_sensitivity", True),
    ]
    client.post(f"/api/setups/{fork.pk}/undo")
    assert steps_of(fork, "G4") == before


@pytest.mark.parametrize(
    ("name", "steps", "said"),
    [
        ("G4", [LOW_PASS | {"corner_hz": 600.0}], "too high for 1000 samples"),
        ("G4", [LOW_PASS, LOW_PASS], "would have a step twice"),
        ("F axle", [{"kind": "transverse_sensitivity", "sensitivity": 0.01}], "F axle is none"),
        ("F axle", [{"kind": "absolute_pressure", "air_pa": 101e3}], "measures force"),
        (
            "G4",
            [{"kind": "thermal_output", "temperature": "nobody", "coefficients": [1e-6]}],
            "names no temperature channel",
        ),
        ("G4", [LOW_PASS | {"order": 9}], "order"),
        ("G4", [{"kind": "sponge"}], "not what is expected"),
    ],
)
def test_what_cannot_be_a_step_is_refused_with_the_reason(as_role, fork, name, steps, said):
    before = steps_of(fork, name)
    answer = put(as_role("engineer"), row_of(fork, name), *steps)
    problem = answer.json()
    assert answer.status_code == 422
    assert said in f"{problem}"
    assert problem["field"].startswith("steps")
    assert steps_of(fork, name) == before


def test_thermometers_are_named_where_one_is_to_be_chosen(as_role, fork):
    step = {"kind": "gauge_factor_slope", "temperature": "nobody", "per_kelvin": 1e-4}
    assert put(as_role("engineer"), row_of(fork, "G4"), step).json()["hint"] == "Choose one of T."


def test_a_copy_names_its_own_thermometer(as_role, fork):
    client, thermometer = as_role("engineer"), row_of(fork, "T")
    step = {"kind": "gauge_factor_slope", "temperature": thermometer.key, "per_kelvin": 1e-4}
    assert put(client, row_of(fork, "G4"), step).status_code == 200
    assert client.post(f"/api/setups/{fork.pk}/duplicate").status_code == 201
    copy = Setup.objects.latest("pk")
    by_name = {c["name"]: c for c in client.get(f"/api/setups/{copy.pk}").json()["channels"]}
    assert by_name["G4"]["steps"][0]["temperature"] == by_name["T"]["key"] != thermometer.key


def chain(client, channel, **body):
    answer = client.post(f"/api/channels/{channel.pk}/chain", body, JSON)
    assert answer.status_code == 200
    return answer.json()


def test_a_reading_is_shown_part_by_part(as_role, fork):
    client, gauge = as_role("engineer"), row_of(fork, "G4")
    thermometer = row_of(fork, "T").key
    put(
        client,
        gauge,
        {"kind": "transverse_sensitivity", "sensitivity": 0.01, "poisson_ratio": 0.0},
        {"kind": "thermal_output", "temperature": thermometer, "coefficients": [0.0, 1e-6]},
        LOW_PASS,
        {"kind": "high_pass", "corner_hz": 1.0, "on": False},
    )
    parts = chain(client, gauge, signal=1e-3, reading=5e-4, others={thermometer: 293.15})
    assert [p["title"] for p in parts] == [
        "Raw",
        "Scaling",
        "Lead resistance",
        "Transverse sensitivity",
        "Thermal output",
        "Low-pass",
        "High-pass",
    ]
    raw, _, scaled, transverse, thermal, low, high = parts
    assert (raw["value"], raw["in_quantity"], scaled["in_quantity"]) == (1e-3, False, True)
    assert transverse["value"] == pytest.approx(scaled["value"] * (1 - 0.285 * 0.01))
    assert transverse["value"] - thermal["value"] == pytest.approx(20e-6 * 2.0 / 2.05)
    assert (low["value"], low["step"]) == (5e-4, 2)
    assert (high["on"], high["value"], high["step"]) == (False, None, 3)
    unknown = chain(client, gauge, signal=1e-3)
    assert [p["value"] is None for p in unknown] == [False, False, False, False, True, True, True]


def test_a_filter_is_drawn_at_the_channels_rate(as_role, fork):
    client, gauge = as_role("reviewer"), row_of(fork, "G4")
    shown = client.post(
        f"/api/channels/{gauge.pk}/filter", {"step": LOW_PASS | {"order": 1}}, JSON
    ).json()
    assert shown["rate_hz"] == 1000.0
    assert shown["delay_s"] == pytest.approx(1 / (2 * math.pi * 20), rel=0.01)
    at = min(range(160), key=lambda i: abs(shown["frequencies_hz"][i] - 20))
    assert shown["amplitudes"][at] == pytest.approx(math.sqrt(0.5), abs=0.02)
    assert shown["step"][-1] == pytest.approx(1, abs=2e-3)
    assert shown["warning"] == ""
    near = client.post(
        f"/api/channels/{gauge.pk}/filter", {"step": LOW_PASS | {"corner_hz": 450.0}}, JSON
    ).json()
    assert "more than 0.4 of the 1000 samples" in near["warning"]
    refused = client.post(
        f"/api/channels/{gauge.pk}/filter",
        {"step": {"kind": "absolute_pressure", "air_pa": 1e5}},
        JSON,
    )
    assert refused.status_code == 422


def test_steps_may_change_while_a_run_records_and_scaling_may_not(as_role, fork):
    client, gauge = as_role("engineer"), row_of(fork, "G4")
    run = begin(fork)
    assert put(client, gauge, LOW_PASS | {"corner_hz": 10.0}).status_code == 200
    recorded = next(c for c in document_of(run).channels if c.name == "G4")
    assert recorded.steps[0].corner_hz == 40.0  # the run keeps those that it began with
    refused = client.patch(f"/api/channels/{gauge.pk}/scaling", {"polarity": "turned"}, JSON)
    assert refused.status_code == 409


def test_a_barometer_is_asked_for_on_each_day(as_role, fork, monkeypatch):
    client, channel = as_role("engineer"), row_of(fork, "F axle")
    type(channel).objects.filter(pk=channel.pk).update(quantity="pressure", unit="bar")

    def asked_for(air_pa):
        assert (
            put(client, channel, {"kind": "absolute_pressure", "air_pa": air_pa}).status_code == 200
        )
        listed = client.get(f"/api/setups/{fork.pk}").json()["preflight"]
        return [i["text"] for i in listed if i["code"] == "to_read"]

    assert asked_for(101_325.0) == [
        "The air pressure that makes F axle absolute is the standard one, not read."
    ]
    assert asked_for(99_800.0) == []
    (stored,) = next(
        c["steps"]
        for c in client.get(f"/api/setups/{fork.pk}").json()["channels"]
        if c["name"] == "F axle"
    )
    assert put(client, channel, stored).status_code == 200  # as a screen sends it back
    today = laboratory_today()
    for module in ("yoke_server.calibrate.services", "yoke_server.record.preflight"):
        monkeypatch.setattr(f"{module}.laboratory_today", lambda: today + timedelta(days=1))
    assert asked_for(99_800.0) == [
        f"The air pressure that makes F axle absolute was read on {today}."
    ]
    assert asked_for(99_900.0) == []
