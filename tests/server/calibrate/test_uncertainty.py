"""What a reading is uncertain by, how a zero drifts, and what a certificate's date does."""

from datetime import date, timedelta

import pytest
from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import User
from yoke_server.calibrate.services import keep_zeros
from yoke_server.common.clock import laboratory_today
from yoke_server.demo.services import load_cells
from yoke_server.kinds.chain import chain_of
from yoke_server.kinds.orders.measuring import RestReading
from yoke_server.sensors.models import Certificate, Sensor
from yoke_server.setups.freezing import freeze_channels
from yoke_server.setups.models import Balance

from tests.recorded import begin

pytestmark = pytest.mark.django_db
JSON = "application/json"
PER_V_V = 10e3 / 2e-3  # N


@pytest.fixture
def setup(db):
    return load_cells()


def zero(setup, name, signal, **reading):
    """The outcome of a zero on a signal."""
    engineer = Actor(User.objects.get(username="engineer"))
    rest = RestReading(
        **{"mean": signal, "deviation": 1e-9, "clipped": False, "moved": 0.0} | reading
    )
    (outcome,) = keep_zeros(engineer, setup.pk, {setup.channels.get(name=name).key: rest})
    return outcome["problem"]


def asked(client, setup, name, reading, deviation=0.0):
    url = f"/api/channels/{setup.channels.get(name=name).pk}/uncertainty"
    answer = client.post(url, {"reading": reading, "deviation": deviation}, JSON)
    assert answer.status_code == 200, answer.content
    return answer.json()


def test_the_budget_of_a_reading_worked_by_hand(as_role, setup):
    zero(setup, "F ref", 1e-6)
    zero(setup, "F ref", 1.2e-6)  # it drifted by 1 N
    found = asked(as_role("reviewer"), setup, "F ref", 5e3, deviation=0.4)
    at = {t["name"]: t["standard"] for t in found["terms"]}
    assert at["certificate K-26-0317"] == pytest.approx(1e-4 * 5e3)
    assert at["drift of the zero of F ref"] == pytest.approx(0.2e-6 * PER_V_V / 3**0.5)
    assert at["noise"] == 0.4
    assert at["resolution"] == pytest.approx(0.5 / 3**0.5)  # 0.001 kN is shown
    total = sum(u * u for u in at.values()) ** 0.5
    assert found["expanded"] == pytest.approx(2.0 * total, rel=1e-4)
    assert found["lacks"] == []


def test_many_readings_are_as_uncertain_as_each_by_itself(as_role, setup):
    zero(setup, "F ref", 1e-6)
    zero(setup, "F ref", 1.2e-6)
    client, values = as_role("reviewer"), {"F ref": (5e3, 0.4), "F axle": (-2e3, 0.1)}
    rows = {name: setup.channels.get(name=name).pk for name in values}
    body = [
        {"channel": rows[name], "reading": reading, "deviation": deviation}
        for name, (reading, deviation) in values.items()
    ]
    answer = client.post(f"/api/setups/{setup.pk}/uncertainties", {"readings": body}, JSON)
    found = {u["channel"]: u for u in answer.json()}
    for name, (reading, deviation) in values.items():
        alone = asked(client, setup, name, reading, deviation)
        together = found[rows[name]]
        assert together["expanded"] == pytest.approx(alone["expanded"], rel=1e-6)
        assert together["complete"] == (not alone["lacks"])


def test_what_is_not_known_is_said(as_role, setup):
    client = as_role("reviewer")
    assert asked(client, setup, "F axle", 5e3)["lacks"] == [
        "Load cell 10 kN, axle LC-1192 has no certificate.",
        "F axle is not zeroed.",
    ]
    yesterday = laboratory_today() - timedelta(1)
    Certificate.objects.update(due_on=yesterday)
    assert "Certificate K-26-0317 is overdue." in asked(client, setup, "F ref", 1.0)["lacks"]
    Certificate.objects.update(expanded=None)
    lacks = asked(client, setup, "F ref", 1.0)["lacks"]
    assert "Certificate K-26-0317 states no uncertainty." in lacks


def test_a_zero_is_refused_while_the_signal_moves_and_says_by_how_much(setup):
    refused = zero(setup, "F ref", 1e-6, moved=4e-5)
    assert refused == (
        "F ref is not steady: it went by 0.2 kN, more than 0.04 kN; wait until it stands still."
    )
    assert "spreads by 1 kN" in zero(setup, "F ref", 1e-6, deviation=2e-4)
    assert zero(setup, "F ref", 1e-6, moved=1e-6) == ""


def test_zeros_have_a_history_and_a_drift_of_the_day(as_role, setup):
    client, channel = as_role("reviewer"), setup.channels.get(name="F ref")
    for signal in (1e-6, 2e-6, 3e-6):
        zero(setup, "F ref", signal)
    old = Balance.objects.order_by("pk").first()
    Balance.objects.filter(pk=old.pk).update(at=old.at - timedelta(2))
    found = client.get(f"/api/channels/{channel.pk}/zeros").json()
    assert [z["zero"] for z in found] == [1e-6, 2e-6, 3e-6]
    page = client.get(f"/api/setups/{setup.pk}").json()["channels"]
    shown = {c["name"]: (c["zero"], c["zero_of_today"]) for c in page}
    assert shown == {"F ref": (3e-6, 2e-6), "F axle": (None, None)}


def test_an_overdue_certificate_stands_in_the_preflight_list_and_hinders_nothing(as_role, setup):
    def issues():
        listed = as_role("engineer").get(f"/api/setups/{setup.pk}").json()["preflight"]
        return [(i["text"], i["blocks"]) for i in listed if i["code"] == "overdue"]

    assert issues() == []
    Sensor.objects.filter(serial="LC-1192").update(due_on=date(2026, 1, 31))
    assert issues() == [("The certificate of F axle, LC-1192, is overdue since 2026-01-31.", False)]


def test_a_channel_may_want_a_new_zero_before_each_run(as_role, setup):
    client, channel = as_role("engineer"), setup.channels.get(name="F axle")

    def issues():
        listed = client.get(f"/api/setups/{setup.pk}").json()["preflight"]
        return [(i["text"], i["blocks"]) for i in listed if i["code"] == "zero_again"]

    zero(setup, "F axle", 1e-6)
    answer = client.patch(f"/api/channels/{channel.pk}", {"zero_each_run": True}, JSON)
    assert answer.status_code == 200, answer.content
    assert issues() == []  # no run since
    setup.refresh_from_db()
    type(begin(setup)).objects.update(state="kept")
    assert issues() == [("F axle is to be zeroed before each run.", True)]
    zero(setup, "F axle", 1e-6)
    assert issues() == []


def test_a_rated_output_in_volts_is_taken_and_doubted(as_role, setup):
    client, channel = as_role("engineer"), setup.channels.get(name="F axle")
    body = {"scaling": {"kind": "rated_output", "rated_output": 0.2, "capacity": 10e3}}
    answer = client.patch(f"/api/channels/{channel.pk}/scaling", body, JSON)
    (doubt,) = {c["scaling_doubt"] for c in answer.json()["channels"] if c["name"] == "F axle"}
    assert doubt == "A rated output of 200 mV/V is unlikely; 2 mV/V?"


def certificate(client, serial, **fields):
    """The answer to a certificate that somebody typed from paper."""
    sensor = Sensor.objects.get(serial=serial)
    body = {"number": "EX-1", "calibrated_on": "2026-05-01"} | fields
    return client.post(f"/api/sensors/{sensor.pk}/certificates", body, JSON)


def test_a_certificate_from_elsewhere_is_typed_in_and_becomes_a_scaling(as_role, setup):
    client, channel = as_role("engineer"), setup.channels.get(name="F axle")
    url = f"/api/channels/{channel.pk}/scaling/certificate"
    none = client.post(url)
    assert (none.status_code, none.json()["title"]) == (422, "LC-1192 has no table of points.")
    table = "10; 2,0010\n5;\u20091,0008 mV/V\n2.5 kN; 0.5"
    answer = certificate(client, "LC-1192", points=table, expanded="0,05 %", instrument_class="1")
    assert answer.status_code == 201, answer.content
    kept = answer.json()["certificates"][-1]
    assert (kept["expanded"], kept["instrument_class"]) == (pytest.approx(5e-4), "1")
    assert kept["points"][1] == pytest.approx([5e3, 1.0008e-3])
    assert client.post(url).status_code == 200
    zero(setup, "F axle", 1e-5)
    scaled = next(c for c in freeze_channels(setup) if c.name == "F axle")
    readings = chain_of(scaled).apply([1e-5, 1e-5 + 1.0008e-3, 1e-5 + (1.0008e-3 + 2.0010e-3) / 2])
    assert readings == pytest.approx([0.0, 5e3, 7.5e3])
    at = {t["name"]: t["standard"] for t in asked(client, setup, "F axle", 5e3)["terms"]}
    assert at["certificate EX-1"] == pytest.approx(2.5e-4 * 5e3)
    refused = as_role("technician").post(url)
    assert refused.status_code == 403


@pytest.mark.parametrize(
    ("fields", "why"),
    [
        ({"points": "10; 2\n10"}, "Line 2 of the table is no load and signal."),
        ({"points": "10; two\n5; 1"}, "Line 1: letter t is no figure."),
        ({"points": "10; 2\n5; 2"}, "Two points have the signal 2 mV/V."),
        ({"points": "10; 2"}, "A table has 2 to 200 points."),
        ({"points": "1,000.5; 2\n5; 1"}, "write one decimal sign"),
        ({"expanded": "30"}, "An uncertainty of 30 % is none."),
        ({"expanded": "0"}, "An uncertainty of 0 % is none."),
        ({"calibrated_on": "2099-01-01"}, "The calibration lies in the future."),
        ({"due_on": "2026-04-01"}, "It is due before it was calibrated."),
    ],
)
def test_a_certificate_that_makes_no_sense_is_not_kept(as_role, setup, fields, why):
    answer = certificate(as_role("engineer"), "LC-1192", **fields)
    assert answer.status_code == 422
    assert why in answer.json()["title"]
    assert not Sensor.objects.get(serial="LC-1192").certificates.exists()
