"""Shunt checks by the amplifier's resistor and by one that a person puts on."""

from dataclasses import replace

import pytest
from yoke_core.wiring.shunt import expected_shunt_ratio
from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import User
from yoke_server.calibrate.services import keep_zeros
from yoke_server.calibrate.shunts import keep_external_checks, keep_shunt_checks
from yoke_server.common.clock import laboratory_today
from yoke_server.demo.services import load_fork
from yoke_server.kinds.chain import chain_of
from yoke_server.kinds.orders.measuring import RestReading, ShuntReading
from yoke_server.kinds.shunts import ShuntResistor
from yoke_server.setups.freezing import frozen_channel
from yoke_server.setups.services import change_rows

pytestmark = pytest.mark.django_db
JSON = "application/json"
ZERO = 2e-5
AT_GAUGE = ShuntResistor(resistance_ohm=100e3, arm=1, at_sensor=True)


@pytest.fixture
def fork(db):
    return load_fork()[0]


def engineer():
    return Actor(User.objects.get(username="engineer"))


def row(setup):
    return setup.channels.get(name="G4")


def gauge(setup):
    return frozen_channel(setup, row(setup).key)


def step_of(setup, more_ohm=0.0, resistor=AT_GAUGE):
    """What a resistor makes of the quarter bridge, its cores by so much longer; V/V."""
    channel = gauge(setup)
    stated = channel.wiring.shunt_sensor(channel.conditioning)
    sensor = replace(stated, core_ohm=stated.core_ohm + more_ohm)
    return expected_shunt_ratio(sensor, resistor.checked)


def at_rest(setup, mean, **more):
    fields = {"deviation": 1e-9, "clipped": False, "moved": 0.0} | more
    return {row(setup).key: RestReading(mean=mean, **fields)}


def put_on(setup, step, resistor=AT_GAUGE, **more):
    """Zeroed, then read with a resistor on; what it says of the channel."""
    keep_zeros(engineer(), setup.pk, at_rest(setup, ZERO))
    readings = at_rest(setup, ZERO + step, **more)
    (outcome,) = keep_external_checks(engineer(), setup.pk, readings, resistor)
    return outcome["problem"]


def shown(client, setup):
    page = client.get(f"/api/setups/{setup.pk}").json()
    return next(c for c in page["channels"] if c["name"] == "G4")


def test_a_resistor_at_the_gauge_puts_the_span_of_a_longer_cable_right(as_role, fork):
    client, due = as_role("engineer"), step_of(fork)
    read = step_of(fork, 8.0)  # nobody typed the extension of 60 m in
    assert put_on(fork, read) == ""
    check = shown(client, fork)["shunt_check"]
    assert check["deviation"] == pytest.approx(read / due - 1)
    assert (check["passed"], check["corrects"]) == (False, True)
    assert check["by"] == "an external 100 kΩ across arm 1 at the sensor"
    before = float(chain_of(gauge(fork)).apply(ZERO + 1e-3))
    answer = client.post(f"/api/channels/{row(fork).pk}/shunt-span")
    assert answer.status_code == 200
    step = shown(client, fork)["steps"][0]  # in front of its low-pass
    assert step["factor"] == pytest.approx(due / read)
    assert step["measured_on"] == str(laboratory_today())
    corrected = float(chain_of(gauge(fork)).apply(ZERO + 1e-3))
    assert corrected / before == pytest.approx(step["factor"])
    off = {**step, "on": False}
    answer = client.patch(f"/api/channels/{row(fork).pk}/scaling", {"steps": [off]}, JSON)
    assert answer.status_code == 200, answer.content
    assert float(chain_of(gauge(fork)).apply(ZERO + 1e-3)) == before


def test_the_amplifiers_own_resistor_corrects_a_quarter_bridge_and_no_other(as_role, fork):
    client = as_role("engineer")
    step = step_of(fork, 0.01, ShuntResistor(resistance_ohm=100e3)) * 1e3
    full = fork.channels.get(name="F axle")
    readings = {
        key: ShuntReading(step_mv_v=step, clipped=False, moved=False, shunt_ohm=100e3)
        for key in (row(fork).key, full.key)
    }
    assert [o["problem"] for o in keep_shunt_checks(engineer(), fork.pk, readings)] == ["", ""]
    assert shown(client, fork)["shunt_check"]["passed"]
    assert client.post(f"/api/channels/{row(fork).pk}/shunt-span").status_code == 200
    refused = client.post(f"/api/channels/{full.pk}/shunt-span")
    assert refused.status_code == 409
    assert "verifies, and corrects nothing" in refused.json()["title"]


def test_what_is_far_off_is_not_put_right_by_a_factor(as_role, fork):
    assert put_on(fork, step_of(fork) / 2) == ""
    refused = as_role("engineer").post(f"/api/channels/{row(fork).pk}/shunt-span")
    assert refused.json()["title"] == "G4 is off by -50 %: something else is wrong."


@pytest.mark.parametrize(
    ("resistor", "more", "said"),
    [
        (AT_GAUGE, {"clipped": True}, "G4 is clipped"),
        (AT_GAUGE, {"moved": 1e-3}, "G4 is not steady"),
        (ShuntResistor(resistance_ohm=1e5, arm=3), {}, "Arm 3 lies inside the amplifier"),
        (ShuntResistor(resistance_ohm=1e5, at_sensor=True), {}, "Arm 2 is not at the sensor"),
    ],
)
def test_a_check_that_says_nothing_is_refused_with_the_reason(fork, resistor, more, said):
    assert said in put_on(fork, 1e-3, resistor, **more)
    assert gauge(fork).shunt_measured_mv_v is None


def test_swapped_cores_turn_what_is_put_on_beyond_them(as_role, fork):
    channel = row(fork)
    change_rows(engineer(), fork, "Swapped", [(channel, {"polarity": "cores swapped"})])
    assert put_on(fork, -step_of(fork)) == ""
    assert shown(as_role("engineer"), fork)["shunt_check"]["deviation"] == pytest.approx(0.0)


def test_a_device_that_does_not_know_its_shunt_is_named(fork):
    readings = {
        row(fork).key: ShuntReading(step_mv_v=0.3, clipped=False, moved=False, shunt_ohm=0.0)
    }
    (outcome,) = keep_shunt_checks(engineer(), fork.pk, readings)
    assert outcome["problem"] == "A3 says that its shunt has 0 Ω."


def test_without_a_zero_there_is_nothing_to_compare_with(fork):
    readings = at_rest(fork, 1e-3)
    (outcome,) = keep_external_checks(engineer(), fork.pk, readings, AT_GAUGE)
    assert outcome["problem"].startswith("G4 has no zero: take the resistor off")


def test_leads_are_a_part_of_the_chain_that_can_be_switched_off(as_role, fork):
    client, channel = as_role("engineer"), row(fork)
    wiring = channel.wiring.model_copy(update={"lead_length_m": 60.0})
    change_rows(engineer(), fork, "Long cable", [(channel, {"wiring": wiring})])

    def chain():
        answer = client.post(f"/api/channels/{channel.pk}/chain", {"signal": 1e-3}, JSON)
        return {p["title"]: p for p in answer.json()}

    parts = chain()
    assert list(parts) == ["Raw", "Scaling", "Lead resistance", "Low-pass"]
    share = 1 + 2 * wiring.lead_ohm / wiring.resistance_ohm  # both of its two cores
    with_leads, bare = parts["Lead resistance"]["value"], parts["Scaling"]["value"]
    assert with_leads / bare == pytest.approx(share, rel=5e-3)
    assert parts["Lead resistance"]["leads"]
    scaling = {**channel.scaling.model_dump(), "with_leads": False}
    client.patch(f"/api/channels/{channel.pk}/scaling", {"scaling": scaling}, JSON)
    parts = chain()
    assert parts["Lead resistance"]["on"] is False
    assert parts["Scaling"]["value"] == bare
    assert float(chain_of(gauge(fork)).apply(1e-3)) == bare
