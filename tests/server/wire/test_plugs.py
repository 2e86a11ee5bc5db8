"""Data sheets in plugs: read, proposed, accepted one by one, written; and what is no sheet."""

from dataclasses import replace

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from yoke_core.datasheet.sheet import PAGE, DataSheet, SheetError, read_sheet, write_sheet
from yoke_core.datasheet.templates import BRIDGE_SENSOR
from yoke_rig.plugs import PLUGS
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.inputs.thermometer.sensor import PlatinumSensor
from yoke_server.sensors.models import Sensor
from yoke_server.sensors.sheets import to_sensor, to_sheet
from yoke_server.wire.plugs.reading import plugs_of

JSON = "application/json"
CELL = read_sheet(PLUGS[0].sheet)


@pytest.fixture
def client(driving):
    return driving("engineer")


def post(client, path, body=None, code=200):
    answer = client.post(path, body or {}, content_type=JSON)
    assert answer.status_code == code, answer.content
    return answer.json() if answer.content else None


def plugs(client, setup):
    found = post(client, f"/api/setups/{setup.pk}/plugs")["plugs"]
    return {p["input_label"]: p for p in found}


def place(setup, name):
    return setup.channels.get(name=name).input.label


def move(client, setup, *names, code=200):
    found = plugs(client, setup).values()
    asked = [
        {"channel_id": p["channel_id"], "input_id": p["input_id"]}
        for p in found
        if p["proposal"] == "move" and p["serial"] in names
    ]
    return post(client, f"/api/setups/{setup.pk}/moves", {"moves": asked}, code)


@pytest.mark.django_db(transaction=True)
def test_sensors_that_were_moved_are_known_by_their_serials(lab, client, setup, rig):
    at_first = plugs(client, setup)
    assert (at_first["1.1"]["serial"], at_first["1.1"]["proposal"]) == ("LC-2207", "")
    assert at_first["1.3"]["state"] == "blank"
    assert at_first["1.5"]["state"] == "none"
    # The second amplifier has a load cell of the library that nobody wired.
    assert (at_first["2.2"]["serial"], at_first["2.2"]["proposal"]) == ("LC-1180", "wire")
    rig.tell("A1", "TEST:MOVE 1,2")
    rig.tell("A1", "TEST:MOVE 2,6")  # the clip now at 1.1, the cell at 1.6
    found = plugs(client, setup)
    assert (found["1.1"]["serial"], found["1.1"]["proposal"]) == ("EX-0351", "move")
    assert (found["1.6"]["serial"], found["1.6"]["proposal"]) == ("LC-2207", "move")
    # Each is accepted or not; the clip's place is still the cell's.
    problem = move(client, setup, "EX-0351", code=409)
    assert problem["title"] == "F and e clip would be on input 1.1."
    assert (place(setup, "F"), place(setup, "e clip")) == ("1.1", "1.2")
    version = move(client, setup, "LC-2207")["version"]
    assert (place(setup, "F"), place(setup, "e clip")) == ("1.6", "1.2")
    assert move(client, setup, "EX-0351")["version"] == version + 1
    assert (place(setup, "F"), place(setup, "e clip")) == ("1.6", "1.1")
    assert not [p for p in plugs(client, setup).values() if p["proposal"] == "move"]
    post(client, f"/api/setups/{setup.pk}/undo")
    assert place(setup, "e clip") == "1.2"


@pytest.mark.django_db(transaction=True)
def test_two_that_changed_places_are_one_action_and_one_undo(lab, client, setup, rig):
    rig.tell("A1", "TEST:MOVE 1,2")
    before = setup.channels.get(name="F")
    move(client, setup, "LC-2207", "EX-0351")
    assert (place(setup, "F"), place(setup, "e clip")) == ("1.2", "1.1")
    after = setup.channels.get(name="F")
    assert (after.key, after.scaling, after.wiring) == (before.key, before.scaling, before.wiring)
    post(client, f"/api/setups/{setup.pk}/undo")
    assert (place(setup, "F"), place(setup, "e clip")) == ("1.1", "1.2")


@pytest.mark.django_db(transaction=True)
def test_a_sensor_is_written_into_its_plug_and_read_from_it(lab, client, setup):
    row = setup.channels.get(name="SG1")
    post(client, f"/api/channels/{row.pk}/sheet", code=204)
    found = plugs(client, setup)["1.3"]
    assert (found["state"], found["serial"], found["proposal"]) == ("sheet", "lot 0817-1", "")


def compared(setup, memory):
    return plugs_of(setup, {"A1": {"5": memory.hex()}})[0]


def test_a_plug_that_the_library_does_not_know_makes_a_sensor(client, setup):
    strange = write_sheet(replace(CELL, text="LC-9001", serial=9001))
    found = compared(setup, strange)
    assert (found["proposal"], found["words"], found["serial"]) == ("add", "load cell", "LC-9001")
    made = post(client, "/api/sensors/from-sheet", {"memory": strange.hex()}, 201)
    sensor = Sensor.objects.get(serial="LC-9001")
    assert made["id"] == sensor.pk
    spec = sensor.spec
    assert (spec.capacity, spec.rated_output, spec.resistance_ohm) == (25e3, 2e-3, 350.0)
    assert (f"{sensor.calibrated_on}", f"{sensor.due_on}") == ("2026-03-14", "2027-03-14")
    assert compared(setup, strange)["proposal"] == "wire"
    again = post(client, "/api/sensors/from-sheet", {"memory": strange.hex()}, 409)
    assert again["title"] == "The library has LC-9001 already."


@pytest.mark.parametrize(
    ("memory", "state", "words"),
    [
        (PLUGS[0].sheet[:-1] + b"\x07", "unreadable", "Page 4 of the data sheet has a wrong"),
        (PLUGS[0].sheet[:32], "unreadable", "ends too early"),
        (
            write_sheet(replace(CELL, text="X1", values={**CELL.values, "measurand": "K"})),
            "sheet",
            "it measures K, which no sensor here does",
        ),
        (
            write_sheet(replace(CELL, text="X1", values={**CELL.values, "highest": None})),
            "sheet",
            "it does not tell its highest",
        ),
        (write_sheet(replace(CELL, text="=1+1")), "sheet", "begins with ="),
        (
            write_sheet(replace(CELL, text="X1", values={**CELL.values, "highest": 0.0})),
            "sheet",
            "its range is empty",
        ),
        (
            write_sheet(replace(CELL, text="X1", values={**CELL.values, "highest": 1e30})),
            "sheet",
            "it says impossible things",
        ),
        (b"\xff" * 128, "blank", ""),
        (b"", "none", ""),
    ],
)
def test_what_cannot_be_used_is_said_plainly(setup, memory, state, words):
    found = compared(setup, memory)
    assert (found["state"], found["proposal"]) == (state, "")
    assert words in found["problem"]


def paged(payload):
    pages = [payload[i : i + PAGE - 1] for i in range(0, len(payload), PAGE - 1)]
    return b"".join(bytes([-sum(p) % 256]) + p for p in pages)


@given(st.binary(min_size=93, max_size=93), st.sampled_from([33, 35, None]))
@settings(deadline=None)
def test_whatever_lies_in_a_memory_is_a_sensor_or_a_sentence(noise, template):
    """Any bits whose checksums are right, most of them with a template that is known."""
    bits = int.from_bytes(noise, "little")
    if template:  # selector and template follow the basic part
        bits = bits & ~(0x3FF << 64) | template << 66
        if template == BRIDGE_SENSOR:  # the one form of outputs that is read
            bits = bits & ~(3 << 144) | 2 << 144
    sensor, said = None, "."
    try:
        sheet = read_sheet(paged(bits.to_bytes(93, "little")))
        sensor = sheet and to_sensor(sheet)
    except (SheetError, Problem) as problem:
        said = str(problem)
    assert said.endswith(".")
    if sensor:
        assert sensor.serial
        assert sensor.spec.resistance_ohm >= 1
        assert read_sheet(write_sheet(to_sheet(sensor))).text == sensor.serial


def test_every_sensor_of_the_demo_that_has_a_sheet_reads_back_as_itself(setup):
    from yoke_server.demo import library as demo_library
    from yoke_server.demo import services as demo

    demo.load_fork()
    demo_library.load(demo.date(2026, 11, 1))
    written = 0
    for sensor in Sensor.objects.all():
        try:
            sheet = to_sheet(sensor)
        except Problem:
            assert sensor.spec.kind not in ("transducer", "gauge") or sensor.quantity == "angle"
            continue
        found = read_sheet(write_sheet(sheet))
        again = to_sensor(found)
        assert again.serial == sensor.serial
        assert again.spec.resistance_ohm == pytest.approx(sensor.spec.resistance_ohm, abs=0.05)
        for field in ("rated_output", "capacity", "gauge_factor"):
            if hasattr(sensor.spec, field):
                assert getattr(again.spec, field) == pytest.approx(
                    getattr(sensor.spec, field), rel=1e-6
                )
        written += 1
    assert written > 25


def test_a_thermometer_has_no_sheet_here(setup):
    sensor = Sensor(kind="temperature", serial="T1", quantity="temperature", spec=PlatinumSensor())
    with pytest.raises(Problem, match="no data sheet for a temperature"):
        to_sheet(sensor)


def test_a_number_that_several_sensors_have_is_none(setup):
    nameless = DataSheet(41, 1, "", 0, 2207, BRIDGE_SENSOR, CELL.values)
    found = compared(setup, write_sheet(nameless))
    assert found["serial"] == "41-2207"
    assert found["proposal"] == "move"  # one sensor of the library has that number
    Sensor.objects.create(
        kind="load cell",
        name="n",
        serial="XX-2207",
        quantity="force",
        spec=Sensor.objects.get(serial="LC-2207").spec,
    )
    assert compared(setup, write_sheet(nameless))["proposal"] == "add"
