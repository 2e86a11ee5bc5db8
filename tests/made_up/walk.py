"""Run in a process with the copy of the server that knows the made-up kinds."""

import io

import numpy as np
import pytest
from asgiref.sync import async_to_sync
from pypdf import PdfReader
from yoke_core.wiring.samples import SampleFacts
from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import User
from yoke_server.bench.services import take_yoke
from yoke_server.calibrate.calibrations.plan import steps_of
from yoke_server.calibrate.calibrations.services import keep_capture
from yoke_server.calibrate.models import Calibration
from yoke_server.derive.computing import derive_stale
from yoke_server.kinds.chain import chain_of
from yoke_server.kinds.guards.base import GuardAction
from yoke_server.kinds.guards.curfew import Curfew
from yoke_server.kinds.keep_rules.every_other import EveryOther
from yoke_server.kinds.legs.breath import BreathLeg
from yoke_server.kinds.motions.no_motion import NoMotion
from yoke_server.kinds.motions.nudge import Nudge
from yoke_server.kinds.motions.programme import Programme
from yoke_server.kinds.orders.measuring import RestReading, WiringReading
from yoke_server.kinds.specimens.ring import RingPiece
from yoke_server.kinds.stops.enough_samples import EnoughSamples
from yoke_server.kinds.triggers.tenth_block import TenthBlock
from yoke_server.record.preflight import preflight_issues
from yoke_server.report.models import Report
from yoke_server.report.tasks import make
from yoke_server.report.wiring_sheet.contents import contents
from yoke_server.setups.freezing import freeze, freeze_channels
from yoke_server.setups.services import keep_revision
from yoke_server.wire.check.judge import judge

from tests.recorded import PER_BLOCK, block, record
from tests.simulation.stage import Stage

JSON = "application/json"


@pytest.fixture
def client(as_role):
    return as_role("engineer")


@pytest.fixture
def run(setup):
    """Recorded with the made-up motion, stop and specimen."""
    setup.motion, setup.stops = Nudge(way_m=2e-3), [EnoughSamples(samples=500)]
    setup.piece = RingPiece(gauge_length_m=0.05, wire_m=4e-3)
    setup.save()
    keep_revision(None, setup, "made up")
    counts = np.zeros((10 * PER_BLOCK, 8), np.int32)
    counts[:, 0] = np.arange(len(counts))
    return record(setup, [block(i, counts[i * PER_BLOCK : (i + 1) * PER_BLOCK]) for i in range(10)])


def wired(client, setup):
    """A clamp in the library, then on an input of the measuring module."""
    record = {"kind": "current clamp", "name": "Clamp 1", "serial": "HC-1", "per_volt": "50"}
    made = client.post("/api/sensors", {"record": record}, content_type=JSON)
    assert made.status_code == 201, made.content
    plug = setup.bench.devices.get(label="M1").inputs.filter(signal="voltage").first()
    body = {"input_id": plug.pk, "sensor_id": made.json()["id"], "name": "I"}
    answer = client.post(f"/api/setups/{setup.pk}/channels", body, content_type=JSON)
    assert answer.status_code == 201, answer.content
    return next(c for c in answer.json()["channels"] if c["name"] == "I")


def test_an_input_is_offered_wired_read_checked_and_printed(client, setup):
    kinds = {k["name"]: k for k in client.get("/api/sensor-kinds").json()}
    assert kinds["current clamp"]["connections"][0]["name"] == "Hall clamp"
    shown = wired(client, setup)
    assert (shown["wiring"]["kind"], shown["per_signal"]) == ("hall_clamp", pytest.approx(50))
    assert shown["sensor"]["cores"][0]["function"] == "output +"
    channel = next(c for c in freeze_channels(setup) if c.name == "I")
    assert float(chain_of(channel).apply(2.0)) == pytest.approx(100)
    row = setup.channels.select_related("sensor", "input__device").get(name="I")
    facts = dict.fromkeys(SampleFacts.__dataclass_fields__, 0.0) | {"mean": 2.0, "flat": False}
    assert not judge(row, WiringReading(samples=facts, probe=None)).causes
    devices = contents(setup)[0]["devices"]
    assert ("Clamp", "1 turns") in devices["M1"][0]["facts"]
    scaled = client.patch(
        f"/api/channels/{shown['id']}/scaling",
        {"scaling": {"kind": "hall", "per_volt": 60}},
        content_type=JSON,
    )
    assert scaled.status_code == 200
    refused = client.patch(
        f"/api/channels/{setup.channels.get(name='F').pk}/scaling",
        {"scaling": {"kind": "hall", "per_volt": 60}},
        content_type=JSON,
    )
    assert refused.json()["title"] == "A bridge cannot be scaled by hall."


def test_a_setup_with_an_input_goes_out_and_comes_in_as_a_file(client, setup):
    wired(client, setup)
    setup.refresh_from_db()
    file = client.get(f"/api/setups/{setup.pk}/revisions/{setup.version}/file").json()
    body = {"bench_id": setup.bench_id, "name": "Again", "document": file}
    path = f"/api/projects/{setup.project_id}/setups/import"
    assert client.post(path, body, content_type=JSON).status_code == 201


def test_motion_stop_and_specimen_are_set_and_stand_in_the_preflight(client, setup):
    body = {
        "motion": {"kind": "nudge", "way_m": 2e-3},
        "stops": [{"kind": "enough_samples", "samples": 500}],
        "piece": {"kind": "ring", "gauge_length_m": 0.05, "wire_m": 4e-3},
    }
    engineer = User.objects.get(username="engineer")
    take_yoke(Actor(engineer, client.session.session_key), setup.bench_id)
    answer = client.patch(f"/api/setups/{setup.pk}", body, content_type=JSON)
    assert answer.status_code == 200, answer.content
    assert answer.json()["motion"]["kind"] == "nudge"
    setup.refresh_from_db()
    unwired = freeze(setup).model_copy(update={"channels": []})
    assert "Nothing gives samples." in [i.text for i in preflight_issues(setup, unwired)]
    assert freeze(setup).specimen.piece.area_m2 == pytest.approx(25.13e-6, rel=1e-3)
    wrong = client.patch(
        f"/api/setups/{setup.pk}", {"motion": {"kind": "nudge"}}, content_type=JSON
    )
    assert wrong.json()["field"] == "motion.way_m"


def test_the_recorder_runs_the_motion_until_the_stop_is_met():
    stage = Stage()
    stage.run(3)
    stage.programme(Nudge(way_m=4e-3), [EnoughSamples(samples=100)])
    stage.run(1)
    stage.start_order()
    stage.run(1.5)
    assert stage.frame.motion == "RAMP"
    stage.run(10)
    (found,) = stage.server.runs.values()
    assert "samples are there" in found.why
    assert stage.frame.motion == "HOLD"


def test_the_recorder_plays_the_leg_until_the_guard_trips(client, setup):
    late = Curfew(channel="0f3a1b7c21d9", samples=150, action=GuardAction.STOP)
    programme = Programme(legs=[BreathLeg(breaths=1), BreathLeg(breaths=50)])
    stage = Stage()
    stage.run(3)
    stage.programme(programme, [], [late])
    stage.run(1)
    stage.start_order()
    stage.run(7)
    assert stage.recorder._state().programme.leg == 2
    stage.run(60)
    (found,) = stage.server.runs.values()
    assert found.why == "It is late"
    body = {"motion": {"kind": "programme", "legs": [{"kind": "breath", "breaths": 3}]}}
    take_yoke(
        Actor(User.objects.get(username="engineer"), client.session.session_key), setup.bench_id
    )
    answer = client.patch(f"/api/setups/{setup.pk}", body, content_type=JSON).json()
    assert answer["paper"]["seconds"] == 12.0
    assert answer["paper"]["legs"][0]["sentence"] == "3 breaths."


def test_the_recorder_keeps_by_the_rule_from_the_trigger_on():
    stage = Stage()
    stage.run(3)
    setup = stage.server.setup.model_copy(update={"keep_rules": [EveryOther()]})
    stage.put(setup)
    stage.programme(NoMotion(), [], trigger=TenthBlock(device="A2"))
    stage.run(1)
    stage.start_order(pull=False)
    stage.run(1.5)
    assert stage.recorder._state().waiting == "ten blocks of A2 have come"
    stage.run(8)
    assert stage.recorder._state().waiting == ""
    stage.stop()
    stage.run(1)
    for stream in stage.server.streams.values():
        assert stream.rule == "every_other"
        causes = [s[2] for s in stream.segments]
        assert causes[0] == "start"
        assert len(causes) > 2
        assert set(causes[1:]) == {"burst"}


def test_a_result_is_offered_and_computed(client, run):
    path = f"/api/setups/{run.setup_id}"
    offers = {o["title"]: o for o in client.get(f"{path}/recipe-offers").json()}
    parameters = offers["Spread of F"]["parameters"]
    assert client.post(f"{path}/recipes", {"parameters": parameters}, content_type=JSON).status_code
    derive_stale(run.setup_id)
    found = client.get(f"/api/runs/{run.pk}/derivations").json()
    (spread,) = [d for d in found if d["recipe"]["parameters"]["kind"] == "spread"]
    assert spread["details"] == {"kind": "spread", "samples": 1000}
    assert spread["results"][0]["symbol"] == "S" and spread["results"][0]["value"] > 0


def test_a_report_prints_them_all(client, run):
    offer = next(
        o
        for o in client.get(f"/api/setups/{run.setup_id}/recipe-offers").json()
        if o["title"] == "Spread of F"
    )
    client.post(
        f"/api/setups/{run.setup_id}/recipes",
        {"parameters": offer["parameters"]},
        content_type=JSON,
    )
    derive_stale(run.setup_id)
    offered = client.get(f"/api/runs/{run.pk}/blocks").json()
    assert "Weather – C1 run 1" in [o["title"] for o in offered]
    report = client.post(f"/api/runs/{run.pk}/report").json()
    kept = [b for b in report["blocks"] if b["kind"] in ("run_facts", "weather")]
    spread = client.get(f"/api/runs/{run.pk}/derivations").json()[-1]["recipe"]["id"]
    kept += [
        {"kind": kind, "run": run.pk, "recipe": spread}
        for kind in ("result_table", "result_picture")
    ]
    changed = client.patch(f"/api/reports/{report['id']}", {"blocks": kept}, content_type=JSON)
    assert changed.status_code == 200, changed.content
    make(report["id"])
    pdf = bytes(Report.objects.get(pk=report["id"]).pdf)
    text = " ".join(page.extract_text() for page in PdfReader(io.BytesIO(pdf)).pages)
    for words in ("Nudged by 2 mm.", "Ring of wire", "21.5 degrees warm", "Spread F", "from 100"):
        assert words in text


def test_a_format_is_offered_and_written(client, run):
    assert "Counted" in [f["title"] for f in client.get("/api/formats").json()]
    path = f"/api/runs/{run.pk}/streams/{run.streams.first().pk}/files/counted"

    async def body(answer):
        return b"".join([part async for part in answer.streaming_content])

    assert async_to_sync(body)(client.get(path)) == b"1000 rows\n"
    assert async_to_sync(body)(client.get(f"{path}?word=lines")) == b"1000 lines\n"


def test_a_sensor_is_calibrated_against_made_up_loads(client, setup):
    channel = setup.channels.get(name="F")
    plan = {"loads": {"kind": "buckets", "each_n": 150.0, "count": 3}, "falling": False}
    plan |= {"rotations": [0.0, 0.0]}
    made = client.post(f"/api/channels/{channel.pk}/calibrations", {"plan": plan}, JSON)
    assert made.status_code == 201, made.content
    calibration = Calibration.objects.get(pk=made.json()["id"])
    slope = 1.02 * 2e-3 / 25e3  # V/V a newton
    for step in steps_of(calibration.plan):
        reading = RestReading(
            mean=1e-6 + step.load * slope, deviation=1e-9, clipped=False, moved=0.0
        )
        engineer = Actor(User.objects.get(username="engineer"))
        keep_capture(engineer, calibration.pk, step.number, {channel.key: reading})
    shown = client.get(f"/api/calibrations/{calibration.pk}").json()
    assert {s["load"] for s in shown["steps"]} >= {150.0, 300.0, 450.0}
    assert calibration.plan.loads.sentence == "Against 3 buckets."
    assert shown["evaluation"]["per_signal"] == pytest.approx(1 / slope, rel=1e-3)


def test_a_step_of_the_reading_is_set_shown_and_read(client, setup):
    channel = setup.channels.get(name="F")
    before = float(chain_of(next(c for c in freeze_channels(setup) if c.name == "F")).apply(1e-3))
    body = {"steps": [{"kind": "glasses"}]}
    answer = client.patch(f"/api/channels/{channel.pk}/scaling", body, content_type=JSON)
    assert answer.status_code == 200, answer.content
    now = next(c for c in freeze_channels(setup) if c.name == "F")
    assert float(chain_of(now).apply(1e-3)) == pytest.approx(2 * before)
    parts = client.post(f"/api/channels/{channel.pk}/chain", {"signal": 1e-3}, JSON).json()
    assert parts[-1]["title"] == "Glasses"


def test_the_description_of_the_api_knows_them(client):
    described = str(client.get("/api/openapi.json").json())
    for name in (
        "HallWiring",
        "HallScaling",
        "HallClamp",
        "Nudge",
        "EnoughSamples",
        "BreathLeg",
        "Curfew",
        "EveryOther",
        "TenthBlock",
        "RingPiece",
        "SpreadParameters",
        "SpreadDetails",
        "Weather",
        "Buckets",
        "Glasses",
    ):
        assert name in described
