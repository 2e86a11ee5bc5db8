"""Calibrations against known loads: planned, captured in order, judged, put in force."""

import json
import subprocess
from datetime import timedelta

import pytest
from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import User
from yoke_server.bench.models import Link
from yoke_server.calibrate.calibrations.plan import Plan, Stage, creep_steps, steps_of
from yoke_server.calibrate.calibrations.services import (
    accept,
    begin_calibration,
    give_up,
    keep_capture,
    leave_out,
)
from yoke_server.calibrate.models import Calibration
from yoke_server.calibrate.services import change_scaling
from yoke_server.common.http.problems import Problem
from yoke_server.demo.services import load_cells
from yoke_server.kinds.chain import chain_of
from yoke_server.kinds.loads.known import KnownValues
from yoke_server.kinds.loads.reference import ReferenceChannel
from yoke_server.kinds.loads.weights import Weights
from yoke_server.kinds.orders.measuring import RestReading
from yoke_server.kinds.scalings.rated_output import RatedOutputScaling
from yoke_server.ledger.models import Entry
from yoke_server.report.calibration_certificate.services import make
from yoke_server.sensors.models import Sensor
from yoke_server.setups.freezing import freeze_channels

pytestmark = pytest.mark.django_db
JSON = "application/json"
KN = [2e3, 4e3, 6e3, 8e3, 10e3]
TRUE = 2.0010e-3 / 10e3  # V/V a newton, of the cell that is calibrated
ZERO, REFERENCE_ZERO = 1.7e-5, -0.6e-5


@pytest.fixture
def setup(db):
    made = load_cells()
    made.bench.devices.update(link=Link.LINKED)
    return made


def who(role):
    return Actor(User.objects.get(username=role))


def row(setup, name):
    return setup.channels.get(name=name)


def key(setup, name):
    return row(setup, name).key


def plan(setup, **changes):
    loads = ReferenceChannel(channel=key(setup, "F ref"), values=KN)
    return Plan(**{"loads": loads, "rotations": [0.0, 0.0, 120.0, 240.0], "preloads": 3} | changes)


def begun(setup, role="technician", **changes):
    return begin_calibration(who(role), row(setup, "F axle").pk, plan(setup, **changes))


def reading(mean, moved=0.0, clipped=False):
    return RestReading(mean=mean, deviation=1e-9, clipped=clipped, moved=moved)


def measured(setup, load, more=0.0, **wrong):
    """What the cell and its reference give under a load; ``more``: what the cell adds, V/V."""
    reference = REFERENCE_ZERO + load * 2e-3 / 10e3
    return {
        key(setup, "F axle"): reading(ZERO + load * TRUE + more, **wrong),
        key(setup, "F ref"): reading(reference),
    }


def zero_both(setup):
    """The reference reads from its zero."""
    from yoke_server.calibrate.services import keep_zeros

    keep_zeros(who("technician"), setup.pk, measured(setup, 0.0))


def carried_out(setup, calibration):
    """All steps captured, falling loads reading a little higher."""
    for step in steps_of(calibration.plan):
        more = 5e-8 if step.stage is Stage.FALLING else 0.0
        keep_capture(
            who("technician"), calibration.pk, step.number, measured(setup, step.load, more)
        )


def shown(client, calibration):
    answer = client.get(f"/api/calibrations/{calibration.pk}")
    assert answer.status_code == 200, answer.content
    return answer.json()


def test_a_load_cell_from_its_plan_to_its_scaling_in_force(as_role, setup):
    zero_both(setup)
    calibration = begun(setup, temperature_coefficient=1e-6)
    client = as_role("engineer")
    first = shown(client, calibration)
    assert (first["next_step"], first["steps"][0]["stage"]) == (0, "preload")
    assert first["evaluation"] is None
    assert "needs 3 loads" in first["problem"]
    carried_out(setup, calibration)
    found = shown(client, calibration)["evaluation"]
    assert found["classification"]["name"] == "0.5"
    assert found["classification"]["limited_by"] == "reference"
    assert "8 loads (there are 5)" in found["classification"]["lacks"]
    at_most = found["loads"][-1]
    assert at_most["deflection"] == pytest.approx(TRUE * 10e3, rel=1e-6)
    assert {t["name"] for t in at_most["terms"]} >= {"reference", "resolution", "temperature"}
    assert found["hysteresis"] == pytest.approx(5e-8 / 2.001e-3, rel=1e-3)
    made = accept(who("engineer"), calibration.pk, number="Y-001", due_on=None)
    sensor = Sensor.objects.get(serial="LC-1192")
    assert made.certificate.sensor_id == sensor.pk
    assert made.certificate.instrument_class == "class 0.5"
    assert made.certificate.expanded == pytest.approx(found["expanded"])
    assert sensor.spec.rated_output == pytest.approx(2.0010e-3, rel=1e-6)
    channel = next(c for c in freeze_channels(setup) if c.name == "F axle")
    assert float(chain_of(channel).apply(ZERO + 5e3 * TRUE)) == pytest.approx(5e3, rel=1e-6)
    assert "Y-001" in Entry.objects.latest("pk").action
    undone = client.post(f"/api/setups/{setup.pk}/undo")  # the scaling before it is kept
    assert undone.status_code == 200


def test_a_technician_captures_and_may_not_accept(setup):
    zero_both(setup)
    calibration = begun(setup)
    carried_out(setup, calibration)
    with pytest.raises(Problem, match="may not keep certificates"):
        accept(who("technician"), calibration.pk, number="Y-001", due_on=None)
    with pytest.raises(Problem, match="may not zero and check"):
        give_up(who("reviewer"), calibration.pk)
    assert Calibration.objects.get(pk=calibration.pk).certificate is None


def test_a_step_is_captured_again_or_left_out_with_a_reason(as_role, setup):
    zero_both(setup)
    calibration, client = begun(setup), as_role("engineer")
    carried_out(setup, calibration)
    rising = next(s for s in steps_of(calibration.plan) if s.stage is Stage.RISING)
    keep_capture(who("technician"), calibration.pk, rising.number, measured(setup, 2e3, 4e-6))
    worse = shown(client, calibration)["evaluation"]["loads"][0]
    assert worse["repeatability"] == pytest.approx(4e-6 / (2e3 * TRUE + 2e-6), rel=1e-3)
    leave_out(who("technician"), calibration.pk, rising.number, "The hook touched the frame.")
    out = shown(client, calibration)
    assert out["steps"][rising.number]["left_out"] == "The hook touched the frame."
    assert out["evaluation"]["loads"][0]["rising"][0] is None
    assert calibration.points.filter(step=rising.number).count() == 3  # nothing is overwritten


def test_what_would_leave_no_curve_is_not_left_out(setup):
    zero_both(setup)
    calibration = begun(setup, rotations=[0.0], falling=False, preloads=0)
    carried_out(setup, calibration)
    for number in (1, 2):
        leave_out(who("technician"), calibration.pk, number, "slipped")
    with pytest.raises(Problem, match="needs 3 loads besides zero"):
        leave_out(who("technician"), calibration.pk, 3, "slipped")
    assert not calibration.points.filter(step=3).exclude(left_out="").exists()


@pytest.mark.parametrize(
    ("readings", "why"),
    [
        (lambda s: measured(s, 10e3, moved=1e-6), "F axle moved by 0.005 kN while"),
        (lambda s: measured(s, 10e3, clipped=True), "F axle clipped"),
        (lambda s: measured(s, 9e3), "F ref reads 9 kN, and the step is 10 kN"),
        (lambda s: {}, "F axle clipped"),
    ],
)
def test_a_capture_that_says_nothing_is_refused_with_the_reason(setup, readings, why):
    zero_both(setup)
    calibration = begun(setup)
    with pytest.raises(Problem, match=why):
        keep_capture(who("technician"), calibration.pk, 0, readings(setup))
    assert not calibration.points.exists()


def test_a_reference_without_a_zero_measures_no_load(setup):
    calibration = begun(setup)
    with pytest.raises(Problem, match="The reference F ref is not zeroed"):
        keep_capture(who("technician"), calibration.pk, 0, measured(setup, 10e3))


def test_steps_go_in_order_and_an_answer_that_was_lost_does_no_harm(setup):
    zero_both(setup)
    calibration = begun(setup)
    with pytest.raises(Problem, match="Step 1 comes before step 2"):
        keep_capture(who("technician"), calibration.pk, 1, measured(setup, 10e3))
    for _ in range(2):
        keep_capture(who("technician"), calibration.pk, 0, measured(setup, 10e3))
    keep_capture(who("technician"), calibration.pk, 1, measured(setup, 10e3))
    with pytest.raises(Problem, match="no step 99"):
        keep_capture(who("technician"), calibration.pk, 98, measured(setup, 0.0))


def test_it_cannot_be_accepted_half_done_or_twice(setup):
    zero_both(setup)
    calibration = begun(setup)
    for step in steps_of(calibration.plan)[:25]:
        keep_capture(who("technician"), calibration.pk, step.number, measured(setup, step.load))
    with pytest.raises(Problem, match="steps of the plan wait"):
        accept(who("engineer"), calibration.pk, number="Y-001", due_on=None)
    for step in steps_of(calibration.plan)[25:]:
        keep_capture(who("technician"), calibration.pk, step.number, measured(setup, step.load))
    accept(who("engineer"), calibration.pk, number="Y-001", due_on=None)
    with pytest.raises(Problem, match="is accepted"):
        accept(who("engineer"), calibration.pk, number="Y-002", due_on=None)


def test_a_channel_is_calibrated_once_at_a_time_and_anew_once_that_was_given_up(setup):
    calibration = begun(setup)
    with pytest.raises(Problem, match="being calibrated already"):
        begun(setup)
    give_up(who("technician"), calibration.pk)
    assert begun(setup).pk != calibration.pk


@pytest.mark.parametrize(
    ("spoil", "why"),
    [
        (lambda c: c.delete(), "F ref has no certificate"),
        (lambda c: type(c).objects.update(due_on="2026-06-01"), "overdue since 2026-06-01"),
        (lambda c: type(c).objects.update(expanded=None), "states no uncertainty"),
    ],
)
def test_a_reference_needs_a_certificate_that_holds(setup, spoil, why):
    spoil(Sensor.objects.get(serial="RC-0207").certificates.get())
    with pytest.raises(Problem, match=why):
        begun(setup)


def test_a_reference_that_is_none_is_refused(setup):
    own = ReferenceChannel(channel=key(setup, "F axle"), values=KN)
    with pytest.raises(Problem, match="cannot be its own reference"):
        begun(setup, loads=own)
    with pytest.raises(Problem, match="no channel of this setup"):
        begun(setup, loads=own.model_copy(update={"channel": "nobody"}))
    type(row(setup, "F ref")).objects.filter(name="F ref").update(quantity="torque")
    with pytest.raises(Problem, match="F ref measures torque, and F axle force"):
        begun(setup)
    setup.bench.devices.update(link=Link.LOST)
    type(row(setup, "F ref")).objects.filter(name="F ref").update(quantity="force")
    with pytest.raises(Problem, match="is not linked"):
        begun(setup)


@pytest.mark.parametrize(
    ("loads", "why"),
    [
        ({"kind": "known_values", "values": [1e3, 1e3, 2e3]}, "load 2 is no larger"),
        ({"kind": "known_values", "values": [1e3, -2e3]}, "load 2 is no larger"),
        ({"kind": "known_values", "values": [0.0, 1e3]}, "load 2 is no larger"),
        ({"kind": "known_values", "values": [0.0]}, "leave zero out"),
        ({"kind": "known_values", "values": []}, "Values is empty"),
        ({"kind": "weights", "masses": [0.0, 10.0]}, "at least 0.0001"),
        ({"kind": "weights", "masses": [10.0, 20.0], "arm_m": 1.0}, "without an arm"),
    ],
)
def test_loads_that_make_no_plan_are_refused(as_role, setup, loads, why):
    body = {"plan": {"loads": loads, "rotations": [0.0]}}
    url = f"/api/channels/{row(setup, 'F axle').pk}/calibrations"
    answer = as_role("technician").post(url, body, JSON)
    assert answer.status_code == 422
    assert why in json.dumps(answer.json())


def test_weights_hang_in_air_where_gravity_is_known_and_torque_has_an_arm():
    hung = Weights(masses=[100.0, 200.0], gravity=9.81)
    assert hung.nominal[0] == pytest.approx(981.0 * (1 - 1.2 / 8000))
    assert Weights(masses=[10.0], arm_m=0.5).nominal[0] == pytest.approx(
        hung.nominal[0] / 20, rel=1e-3
    )
    assert KnownValues(values=[1.0, 2.0]).uncertainty == 1e-4


def test_its_certificate_is_a_pdf_in_the_library_made_once(as_role, setup):
    zero_both(setup)
    calibration = begun(setup)
    carried_out(setup, calibration)
    client, url = as_role("engineer"), f"/api/calibrations/{calibration.pk}"
    early = client.post(f"{url}/certificate")
    assert (early.status_code, early.json()["type"]) == (409, "/problems/not-ready")
    body = {"number": "Y-001", "due_on": "2099-01-01"}
    answer = client.post(f"{url}/accept", body, JSON)
    assert answer.status_code == 200, answer.content
    assert answer.json()["has_file"] is False
    make(calibration.pk)
    shown_now = client.get(url).json()
    pdf = client.get(f"/api/certificates/{shown_now['certificate_id']}/file").content
    assert pdf.startswith(b"%PDF-")
    command = ["pdftotext", "-layout", "-", "-"]
    text = subprocess.run(command, input=pdf, capture_output=True, check=True).stdout.decode()
    for words in ("Y-001", "LC-1192", "RC-0207", "0.5 from 2 kN up", "2099-01-01", "Reference"):
        assert words in text
    make(calibration.pk)  # a task that comes twice
    assert client.get(f"/api/certificates/{shown_now['certificate_id']}/file").content == pdf


def test_what_is_set_later_changes_nothing_of_it(as_role, setup):
    """Neither decimals, nor a scaling; the wiring may not change while it is under way."""
    zero_both(setup)
    calibration, client = begun(setup), as_role("engineer")
    carried_out(setup, calibration)
    before = shown(client, calibration)["evaluation"]
    type(row(setup, "F axle")).objects.filter(name="F axle").update(decimals=0)
    assert shown(client, calibration)["evaluation"] == before
    type(row(setup, "F axle")).objects.filter(name="F axle").update(polarity="turned")
    with pytest.raises(Problem, match="no longer wired as it was"):
        accept(who("engineer"), calibration.pk, number="Y-001", due_on=None)


def test_the_rated_output_is_stated_at_the_instruments_own_capacity(setup):
    """The channel's scaling keeps the capacity that it was typed with."""
    zero_both(setup)
    half = RatedOutputScaling(rated_output=1e-3, capacity=5e3)
    change_scaling(who("engineer"), row(setup, "F axle").pk, scaling=half)
    calibration = begun(setup)
    carried_out(setup, calibration)
    accept(who("engineer"), calibration.pk, number="Y-1", due_on=None)
    assert Sensor.objects.get(serial="LC-1192").spec.rated_output == pytest.approx(2.001e-3)
    channel = next(c for c in freeze_channels(setup) if c.name == "F axle")
    assert (channel.scaling.capacity, channel.scaling.rated_output) == (
        5e3,
        pytest.approx(1.0005e-3),
    )


def test_a_bent_cell_gets_a_curve_of_its_own(setup):
    """Order 2: the scaling is a polynomial over what was calibrated and a little beyond."""
    zero_both(setup)
    calibration = begun(setup, order=2, rotations=[0.0], preloads=0, falling=False)
    for step in steps_of(calibration.plan):
        share = step.load / 10e3
        bent = 4e-6 * share * (1 - share)
        keep_capture(
            who("technician"), calibration.pk, step.number, measured(setup, step.load, bent)
        )
    accept(who("engineer"), calibration.pk, number="Y-2", due_on=None)
    channel = next(c for c in freeze_channels(setup) if c.name == "F axle")
    for share in (0.3, 0.5, 1.0):
        signal = ZERO + share * 10e3 * TRUE + 4e-6 * share * (1 - share)
        assert float(chain_of(channel).apply(signal)) == pytest.approx(share * 10e3, abs=0.2)


def passed(calibration, seconds):
    """So much time has passed since each capture."""
    for point in calibration.points.all():
        earlier = point.captured_at - timedelta(seconds=seconds)
        calibration.points.filter(pk=point.pk).update(captured_at=earlier)


def captures(setup, calibration, step, more=0.0):
    load = steps_of(calibration.plan)[step].load
    keep_capture(who("technician"), calibration.pk, step, measured(setup, load, more))


def test_creep_is_what_the_signal_does_from_30_s_to_300_s_under_the_largest_load(as_role, setup):
    zero_both(setup)
    calibration = begun(setup, falling=False, creep=True)
    at_once, after_30, after_300 = [s.number for s in creep_steps(calibration.plan)]
    for step in range(at_once + 1):
        captures(setup, calibration, step)
    with pytest.raises(Problem, match="to be on for 30 s") as early:
        captures(setup, calibration, after_30)
    assert "Wait 30 s more" in early.value.hint
    passed(calibration, 30)
    captures(setup, calibration, after_30, 1e-7)
    assert shown(as_role("engineer"), calibration)["evaluation"]["creep"] is None
    with pytest.raises(Problem, match="to be on for 300 s"):
        captures(setup, calibration, after_300)
    passed(calibration, 270)
    captures(setup, calibration, after_300, 9e-7)
    found = shown(as_role("engineer"), calibration)["evaluation"]
    assert found["creep"] == pytest.approx(8e-7 / (TRUE * 10e3), rel=1e-3)
    verdicts = {v["characteristic"]: v["name"] for v in found["classification"]["verdicts"]}
    assert verdicts["creep"] == "0.5"  # 0.04 %: more than class 00 takes
    assert not any("creep" in lack for lack in found["classification"]["lacks"])
    assert "creep" in {t["name"] for t in found["loads"][-1]["terms"]}


def test_a_creep_test_begins_anew_with_its_load(as_role, setup):
    zero_both(setup)
    calibration = begun(setup, creep=True)
    at_once, after_30, _ = [s.number for s in creep_steps(calibration.plan)]
    for step in range(at_once + 1):
        captures(setup, calibration, step)
    passed(calibration, 45)
    with pytest.raises(Problem, match=r"on for 4\d s, and the reading is one after 30 s"):
        captures(setup, calibration, after_30)
    passed(calibration, -15)
    captures(setup, calibration, after_30)
    captures(setup, calibration, at_once)  # taken off, and put on once more
    assert shown(as_role("engineer"), calibration)["next_step"] == after_30
