"""A wiper, coils on a carrier, pulses: measured by the stand-ins and scaled."""

import math

import pytest
from yoke_server.bench.services import add_device, take_yoke
from yoke_server.calibrate.services import keep_zeros
from yoke_server.kinds.chain import chain_of, takes_zero
from yoke_server.kinds.inputs.digital import DigitalOutput
from yoke_server.kinds.orders.measuring import RestReading
from yoke_server.sensors.models import Sensor
from yoke_server.sensors.record import from_record
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import Balance
from yoke_server.wire.services import add_channel

JSON = "application/json"
WIPER = {
    "kind": "displacement",
    "connection": "Potentiometer",
    "name": "Wiper",
    "serial": "PO-1",
    "resistance": "5000",
    "capacity": "100 mm",
}
COILS = {
    "kind": "displacement",
    "connection": "Inductive half bridge",
    "name": "Coils",
    "serial": "LV-1",
    "resistance": "350",
    "rated_output": "80",
    "capacity": "10 mm",
}
PICK_UP = {
    "kind": "speed pulses",
    "connection": "Pulses",
    "name": "Pick-up",
    "serial": "PU-1",
    "pulses_per_turn": "60",
}


@pytest.fixture
def client(driving):
    return driving("engineer")


def wire(client, setup, record, device, number):
    read = from_record(record)
    sensor = Sensor.objects.create(spec=read.spec, **read.values)
    plug = setup.bench.devices.get(label=device).inputs.get(number=number)
    body = {"input_id": plug.pk, "sensor_id": sensor.pk, "name": record["serial"]}
    answer = client.post(f"/api/setups/{setup.pk}/channels", body, content_type=JSON)
    assert answer.status_code == 201, answer.content
    return setup.channels.get(name=record["serial"])


def signal_at_rest(client, setup, channel):
    body = {"channels": [channel.pk]}
    answer = client.post(f"/api/setups/{setup.pk}/zero", body, content_type=JSON)
    assert (answer.status_code, answer.json()[0]["problem"]) == (200, ""), answer.content
    return Balance.objects.filter(channel_key=channel.key).latest("pk").zero


@pytest.mark.django_db(transaction=True)
def test_a_wiper_reads_where_it_stands_and_coils_need_their_carrier(lab, client, setup):
    wiper = wire(client, setup, WIPER, "A2", 3)
    frozen = next(c for c in freeze(setup).channels if c.key == wiper.key)
    at_rest = signal_at_rest(client, setup, wiper)
    assert at_rest == pytest.approx(0.0, abs=2e-4)
    assert chain_of(frozen).apply(at_rest) == pytest.approx(50e-3, abs=0.05e-3)  # in the middle
    assert chain_of(frozen).apply(-0.5) == pytest.approx(0.0)

    coils = wire(client, setup, COILS, "A2", 4)
    assert coils.conditioning.carrier_hz == 4800
    assert signal_at_rest(client, setup, coils) == pytest.approx(2e-3, abs=2e-4)
    change = {"conditioning": {**coils.conditioning.model_dump(), "carrier_hz": 0.0}}
    assert client.patch(f"/api/channels/{coils.pk}", change, JSON).status_code == 200
    assert signal_at_rest(client, setup, coils) == pytest.approx(0.0, abs=2e-4)
    change["conditioning"]["carrier_hz"] = 600.0
    problem = client.patch(f"/api/channels/{coils.pk}", change, JSON).json()
    assert problem["title"] == "Carrier cannot be 600: it is one of 0, 4800."


@pytest.mark.django_db(transaction=True)
def test_pulses_become_turns(lab, client, setup, rig):
    body = {"driver": "pulse module", "host": "127.0.0.1", "port": rig.ports["P1"]}
    tried = client.post(f"/api/benches/{setup.bench_id}/try", body, content_type=JSON).json()
    assert tried["readings"][0]["value"] == pytest.approx(70, rel=0.04)
    assert tried["readings"][1]["value"] == pytest.approx(0, abs=0.5)
    add_device(setup.bench, "P1", "pulse module", host="127.0.0.1", port=rig.ports["P1"])
    channel = wire(client, setup, PICK_UP, "P1", 1)
    frozen = next(c for c in freeze(setup).channels if c.key == channel.key)
    assert chain_of(frozen).apply(70.0) == pytest.approx(70 / 60 * 2 * math.pi)  # rad/s
    assert not takes_zero(frozen)
    assert (channel.unit, channel.quantity) == ("rpm", "speed")


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("quantity", "factor", "still", "moves"),
    [("force", 1.0, 20.0, 200.0), ("force", 1000.0, 0.02, 0.2), ("displacement", 1e-3, 0.05, 0.2)],
)
def test_a_ready_made_number_stands_still_by_what_it_means(
    setup, engineer, quantity, factor, still, moves
):
    """Twenty newtons of noise are none to a weighing indicator; twenty millimetres are a move."""
    add_device(setup.bench, "W1", "weighing indicator", host="127.0.0.1", port=1)
    sensor = Sensor.objects.create(
        kind="load cell",
        name="Own",
        serial="1",
        quantity=quantity,
        spec=DigitalOutput(factor=factor),
    )
    plug = setup.bench.devices.get(label="W1").inputs.get()
    take_yoke(engineer, setup.bench_id)
    channel = add_channel(engineer, setup.pk, input_id=plug.pk, sensor_id=sensor.pk, name="Own")

    def problem(deviation):
        reading = RestReading(mean=1.5, deviation=deviation, clipped=False)
        return keep_zeros(engineer, setup.pk, {channel.key: reading})[0]["problem"]

    assert problem(still) == ""
    assert problem(moves).startswith("Own is not steady: it spreads by 0.2 ")


def test_the_cores_of_a_loop_follow_its_transmitter():
    loop = {"kind": "pressure", "name": "n", "serial": "s", "at_4_ma": "0", "at_20_ma": "250"}
    two, three = (from_record({**loop, "wires": n}).values["cores"] for n in "23")
    assert [c["function"] for c in two] == ["supply +", "loop back"]
    assert [c["function"] for c in three] == ["supply +", "loop back", "supply −"]
