"""Scalings as a data sheet states them, and by two points captured on the bench."""

import pytest
from yoke_core.errors import CoreError
from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import User
from yoke_server.calibrate.captured_points import capture_point
from yoke_server.calibrate.services import keep_zeros
from yoke_server.common.http.problems import Problem
from yoke_server.demo.services import load_cells
from yoke_server.kinds.chain import chain_of
from yoke_server.kinds.orders.measuring import RestReading
from yoke_server.kinds.scalings.stated_output import StatedOutputScaling
from yoke_server.setups.freezing import frozen_channel

pytestmark = pytest.mark.django_db
JSON = "application/json"
ZERO = 1.5e-5


@pytest.fixture
def setup(db):
    return load_cells()


def row(setup):
    return setup.channels.get(name="F axle")


def now(setup):
    return frozen_channel(setup, row(setup).key)


def reading(setup, mean, **more):
    fields = {"deviation": 1e-9, "clipped": False, "moved": 0.0} | more
    return {row(setup).key: RestReading(mean=mean, **fields)}


def engineer():
    return Actor(User.objects.get(username="engineer"))


def capture(setup, point, value, mean, **more):
    return capture_point(engineer(), row(setup).pk, point, value, reading(setup, mean, **more))


@pytest.mark.parametrize(
    ("output_v", "excitation_v", "value"),
    [
        (10e-3, 5.0, 10e3),  # 10 mV at 5 V for 10 kN
        (4.5e-6, 10.0, 4.448222),  # 4.5 µV at 10 V for a pound
        (1e-3, 1.0, 5e3),  # 1 mV/V for 5 kN
    ],
)
def test_an_output_is_taken_as_the_data_sheet_states_it(
    as_role, setup, output_v, excitation_v, value
):
    scaling = {"kind": "stated_output", "output_v": output_v, "excitation_v": excitation_v}
    url = f"/api/channels/{row(setup).pk}/scaling"
    answer = as_role("engineer").patch(url, {"scaling": {**scaling, "value": value}}, JSON)
    assert answer.status_code == 200, answer.content
    signal = output_v / excitation_v
    assert float(chain_of(now(setup)).apply(signal)) == pytest.approx(value)


def test_volts_given_for_millivolts_are_doubted():
    assert StatedOutputScaling(output_v=10e-3, excitation_v=5.0, value=1e4).doubt() == ""
    doubted = StatedOutputScaling(output_v=10.0, excitation_v=5.0, value=1e4).doubt()
    assert "mV for V?" in doubted


def test_two_points_are_captured_one_after_the_other(setup):
    keep_zeros(engineer(), setup.pk, reading(setup, ZERO))
    capture(setup, 1, 0.0, ZERO + 2e-6)  # a little beside the zero
    capture(setup, 2, 5e3, ZERO + 1e-3)
    chain = chain_of(now(setup))
    assert float(chain.apply(ZERO + 2e-6)) == pytest.approx(0.0, abs=1e-9)
    assert float(chain.apply(ZERO + 1e-3)) == pytest.approx(5e3)
    capture(setup, 2, 6e3, ZERO + 1.2e-3)  # once more: the other one stays
    assert float(chain_of(now(setup)).apply(ZERO + 2e-6)) == pytest.approx(0.0, abs=1e-9)


def test_many_scalings_are_one_action_all_or_none(as_role, setup):
    client, url = as_role("engineer"), f"/api/setups/{setup.pk}/scaling"
    rows = list(setup.channels.order_by("pk"))
    rated = {"kind": "rated_output", "rated_output": 1.5e-3, "capacity": 5e3}
    version = client.get(f"/api/setups/{setup.pk}").json()["version"]
    gauge = {"kind": "gauge", "gauge_factor": 0.0, "poisson_ratio": 0.3}
    wrong = [{"id": rows[0].pk, "scaling": rated}, {"id": rows[1].pk, "scaling": gauge}]
    assert client.patch(url, {"channels": wrong}, JSON).status_code == 422
    assert client.get(f"/api/setups/{setup.pk}").json()["version"] == version
    both = [{"id": r.pk, "scaling": rated} for r in rows]
    answer = client.patch(url, {"channels": both}, JSON)
    assert answer.json()["version"] == version + 1
    assert all(c["scaling"]["rated_output"] == 1.5e-3 for c in answer.json()["channels"])
    assert client.post(f"/api/setups/{setup.pk}/undo").status_code == 200
    assert now(setup).scaling.rated_output != 1.5e-3
    foreign = [{"id": 10**6, "scaling": rated}]
    assert client.patch(url, {"channels": foreign}, JSON).status_code == 404


def test_a_point_that_moves_or_makes_no_line_is_refused(setup):
    with pytest.raises(Problem, match="not steady"):
        capture(setup, 1, 0.0, ZERO, moved=1e-3)
    with pytest.raises(Problem, match="clipped"):
        capture(setup, 1, 0.0, ZERO, clipped=True)
    capture(setup, 1, 0.0, 0.0)
    with pytest.raises(CoreError, match="same signal"):
        capture(setup, 2, 7e3, 0.0)
    assert now(setup).scaling.value_2 != 7e3
