"""Bridges balanced in the amplifier: a setting that is seen, and taken off again."""

import pytest
from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import User
from yoke_server.calibrate.balancing import balance_bridges
from yoke_server.calibrate.calibrations.plan import Plan
from yoke_server.calibrate.calibrations.services import begin_calibration
from yoke_server.calibrate.services import keep_zeros
from yoke_server.demo.services import load_cells, load_fork
from yoke_server.kinds.chain import chain_of
from yoke_server.kinds.loads.known import KnownValues
from yoke_server.kinds.orders.measuring import RestReading
from yoke_server.setups.freezing import frozen_channel

pytestmark = pytest.mark.django_db
JSON = "application/json"
OFF = 6.35e-3  # V/V, of a quarter bridge with 12 m of lead in one arm


def engineer():
    return Actor(User.objects.get(username="engineer"))


def channel(setup, name):
    return frozen_channel(setup, setup.channels.get(name=name).key)


def at_rest(setup, name, mean, **more):
    fields = {"deviation": 1e-9, "clipped": False, "moved": 0.0} | more
    return {channel(setup, name).key: RestReading(mean=mean, **fields)}


def balanced(setup, name, mean, **more):
    (outcome,) = balance_bridges(engineer(), setup.pk, at_rest(setup, name, mean, **more))
    return outcome["problem"]


@pytest.fixture
def fork(db):
    return load_fork()[0]


def test_what_a_bridge_gives_at_rest_is_taken_off_and_its_zero_taken_anew(as_role, fork):
    keep_zeros(engineer(), fork.pk, at_rest(fork, "G4", OFF))
    before = float(chain_of(channel(fork, "G4")).apply(OFF + 1e-3))
    assert balanced(fork, "G4", OFF) == ""
    gauge = channel(fork, "G4")
    assert gauge.conditioning.balance == pytest.approx(OFF)
    assert gauge.zero is None
    settings = gauge.wiring.settings(6, gauge.conditioning)
    assert settings.balance == gauge.conditioning.balance
    keep_zeros(engineer(), fork.pk, at_rest(fork, "G4", 2e-8))
    assert float(chain_of(channel(fork, "G4")).apply(2e-8 + 1e-3)) == pytest.approx(before)
    assert balanced(fork, "G4", 1e-6) == ""  # once more: it adds up
    assert channel(fork, "G4").conditioning.balance == pytest.approx(OFF + 1e-6)
    row = fork.channels.get(name="G4")
    body = {"channels": [row.pk], "on": False}
    answer = as_role("engineer").post(f"/api/setups/{fork.pk}/balance", body, JSON)
    assert answer.status_code == 200, answer.content
    assert channel(fork, "G4").conditioning.balance == 0.0


@pytest.mark.parametrize(
    ("name", "mean", "more", "said"),
    [
        ("G4", 41e-3, {}, "more than its device takes off: up to 40 mV/V"),
        ("G4", OFF, {"clipped": True}, "is clipped"),
        ("G4", OFF, {"moved": 1e-3}, "not steady"),
        ("T", 109.0, {}, "is no bridge"),
    ],
)
def test_what_cannot_be_balanced_is_said(fork, name, mean, more, said):
    assert said in balanced(fork, name, mean, **more)
    assert fork.revisions.count() == fork.revisions.latest("number").number


def test_a_cell_that_is_being_calibrated_is_left_alone(db):
    setup = load_cells()
    plan = Plan(loads=KnownValues(values=[2e3, 4e3, 6e3]), rotations=[0.0, 0.0])
    begin_calibration(engineer(), setup.channels.get(name="F axle").pk, plan)
    assert "is being calibrated" in balanced(setup, "F axle", 1e-5)


def test_a_device_takes_only_what_it_offers(as_role, fork):
    row = fork.channels.get(name="G4")
    conditioning = {**row.conditioning.model_dump(), "balance": 0.1}
    url = f"/api/channels/{row.pk}"
    client = as_role("engineer")
    client.post(f"/api/benches/{fork.bench_id}/yoke", {}, JSON)
    answer = client.patch(url, {"conditioning": conditioning}, JSON)
    assert (answer.status_code, answer.json()["field"]) == (422, "conditioning")
    assert "100.000 mV/V" in answer.json()["title"]
