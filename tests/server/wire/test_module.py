"""Loops and thermometers: from the library to readings, and what is refused on the way."""

import numpy as np
import pytest
from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import User
from yoke_server.bench.models import Input
from yoke_server.calibrate.services import keep_tares, keep_zeros
from yoke_server.common.units import from_si
from yoke_server.kinds.chain import chain_of
from yoke_server.kinds.orders.measuring import RestReading
from yoke_server.sensors.models import Sensor
from yoke_server.setups.freezing import freeze

from tests.problems import code_of
from tests.specs import conditioning

JSON = "application/json"


LOOP_CURVE = [(4e-3 * 50 + i * 16e-3 * 50 / 24, -50e-3 + i * 100e-3 / 24) for i in range(25)]


@pytest.fixture
def client(as_role):
    return as_role("engineer")


def wire(client, setup, number, serial, name):
    body = {
        "input_id": Input.objects.get(device__label="M1", number=number).pk,
        "sensor_id": Sensor.objects.get(serial=serial).pk,
        "name": name,
    }
    return client.post(f"/api/setups/{setup.pk}/channels", body, content_type=JSON)


def frozen(setup, name):
    return next(c for c in freeze(setup).channels if c.name == name)


def test_a_loop_reads_its_span_and_nothing_beyond_its_faults(client, setup):
    made = wire(client, setup, 1, "DT-0419", "u")
    assert made.status_code == 201
    row = next(c for c in made.json()["channels"] if c["name"] == "u")
    assert (row["unit"], row["input_label"], row["signal"]) == ("mm", "M1.1", "voltage")
    curve = client.get(f"/api/channels/{row['id']}/curve").json()
    assert row["ends"] == [curve["signals"][0], curve["signals"][-1]]
    assert np.column_stack([curve["signals"], curve["readings"]]) == pytest.approx(
        np.array(LOOP_CURVE)
    )
    found = chain_of(frozen(setup, "u")).apply(np.array([4, 12, 16, 3.5, 21.5]) * 1e-3 * 50)
    assert found[:3] == pytest.approx([-50e-3, 0, 25e-3])
    assert np.isnan(found[3:]).all()


def test_a_voltage_reads_by_its_full_output(client, setup):
    made = wire(client, setup, 3, "LF-1187", "F frame").json()
    row = next(c for c in made["channels"] if c["name"] == "F frame")
    assert (row["unit"], row["wiring"], row["takes_zero"]) == ("kN", {"kind": "voltage"}, True)
    found = chain_of(frozen(setup, "F frame")).apply([0.0, 5.0, -10.0])
    assert found.tolist() == [0, 12.5e3, -25e3]


def test_a_thermometer_reads_celsius_and_has_no_zero(client, setup):
    made = wire(client, setup, 5, "TP-0088", "T").json()
    row = next(c for c in made["channels"] if c["name"] == "T")
    assert (row["takes_zero"], row["unit"]) == (False, "°C")
    kelvin = float(chain_of(frozen(setup, "T")).apply(108.57))
    assert from_si(kelvin, "°C") == pytest.approx(22, abs=0.01)
    assert not any("T is not zeroed" in g["text"] for g in made["preflight"])


def test_nothing_is_taken_off_a_temperature_however_it_is_measured(client, setup):
    wire(client, setup, 1, "DT-0419", "T oil")
    setup.channels.filter(name="T oil").update(quantity="temperature", unit="°C")
    row = setup.channels.get(name="T oil")
    scaling = row.scaling.model_copy(update={"at_4_ma": 273.15, "at_20_ma": 373.15})
    loop = frozen(setup, "T oil").model_copy(
        update={"scaling": scaling, "zero": 0.6, "tare": 20.0}  # as they were kept before
    )
    assert float(chain_of(loop).apply(12e-3 * 50)) == pytest.approx(323.15)
    measured = {row.key: RestReading(mean=0.6, deviation=0.0, clipped=False)}
    actor = Actor(User.objects.first())
    for keep in (keep_zeros, keep_tares):
        (outcome,) = keep(actor, setup.pk, measured)
        assert "T oil measures a temperature" in outcome["problem"]
    found = client.get(f"/api/setups/{setup.pk}").json()
    assert not any("T oil is not zeroed" in g["text"] for g in found["preflight"])


@pytest.mark.parametrize(
    ("number", "serial"), [(5, "DT-0419"), (1, "TP-0088"), (1, "LC-2207")], ids=str
)
def test_a_sensor_on_an_input_of_another_kind_is_refused(client, setup, number, serial):
    answer = wire(client, setup, number, serial, "x")
    assert (answer.status_code, answer.json()["field"]) == (409, "input_id")
    assert code_of(answer) == "input-unfit"


def test_what_a_loop_and_its_module_cannot_be(client, setup):
    row = next(
        c for c in wire(client, setup, 1, "DT-0419", "u").json()["channels"] if c["name"] == "u"
    )
    device = setup.bench.devices.get(label="M1")
    span = {"kind": "loop_span", "at_4_ma": 1.0, "at_20_ma": 1.0}
    for path, body, field in [
        (
            f"channels/{row['id']}",
            {"wiring": {"kind": "loop", "resistor_ohm": 0.0}},
            "wiring.resistor_ohm",
        ),
        (f"channels/{row['id']}/scaling", {"scaling": span}, "at_20_ma"),
        (f"channels/{row['id']}", conditioning(), "conditioning"),
        (f"channels/{row['id']}", {"unit": "kN"}, "unit"),
        (f"setups/{setup.pk}/devices/{device.pk}", {"rate_hz": 2000.0}, "rate_hz"),
    ]:
        answer = client.patch(f"/api/{path}", body, content_type=JSON)
        assert (answer.status_code, answer.json()["field"]) == (422, field), path
        assert answer.json()["hint"]
