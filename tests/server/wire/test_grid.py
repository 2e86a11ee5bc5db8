"""Cells of the table of inputs: pasted, filled down, refused with a reason, taken back at once."""

import pytest
from yoke_server.bench.models import Input
from yoke_server.common.http.number_input import InvalidInput, read_number
from yoke_server.setups.models import Channel, SetupRevision
from yoke_server.setups.naming import counted_on, names_given

JSON = "application/json"


@pytest.fixture
def client(as_role):
    return as_role("technician")


def inputs(*devices):
    found = Input.objects.filter(device__label__in=devices, device__bench__name="Shed bench")
    return list(found.order_by("device__label", "number"))


def put(client, setup, cells, **more):
    body = {"cells": [dict(zip(("input_id", "column", "text"), c, strict=True)) for c in cells]}
    answer = client.post(f"/api/setups/{setup.pk}/cells", body | more, content_type=JSON)
    assert answer.status_code == 200, answer.content
    return answer.json()


def why_not(done):
    return {(c["column"], c["text"]): c["why_not"] for c in done["cells"] if c["why_not"]}


def test_gauges_are_pasted_as_one_action_and_taken_back_by_one_undo(client, setup, gauges):
    free = [p for p in inputs("A1", "A2") if not setup.channels.filter(input=p).exists()]
    before = SetupRevision.objects.count()
    cells = []
    for n, plug in enumerate(free, start=1):
        cells += [
            (plug.pk, "name", f"G{n}"),
            (plug.pk, "sensor", f"lot 0818-{n:02}"),
            (plug.pk, "excitation", "2,5"),
            (plug.pk, "lead", "12.00 m"),
        ]
    done = put(client, setup, cells)
    assert why_not(done) == {}
    assert sum(c["comma"] for c in done["cells"]) == len(free) == 12
    made = Channel.objects.filter(setup=setup, name__startswith="G").order_by("pk")
    assert [c.name for c in made] == [f"G{n}" for n in range(1, 13)]
    assert {(c.conditioning.excitation_v, c.wiring.lead_length_m) for c in made} == {(2.5, 12.0)}
    assert SetupRevision.objects.count() == before + 1
    assert client.post(f"/api/setups/{setup.pk}/undo").json() == {"action": "Pasted 12 rows"}
    assert not Channel.objects.filter(setup=setup, name__startswith="G").exists()


def test_a_cell_that_is_not_taken_says_why_and_the_others_are(client, setup, gauges):
    sg, free = setup.channels.get(name="SG1"), inputs("A1")[4]
    done = put(
        client,
        setup,
        [
            (sg.input_id, "lead", "12,O"),
            (sg.input_id, "excitation", "3"),
            (sg.input_id, "resistance", "1.234,5"),
            (sg.input_id, "range", "±40"),
            (sg.input_id, "name", "F"),
            (free.pk, "lead", "6"),
            (sg.input_id, "colour", "red"),
            (free.pk, "sensor", "lot 9"),
            (sg.input_id, "sensor", "lot 0818-01"),
            (inputs("A2")[4].pk, "sensor", "LC-2207"),
            (inputs("M1")[0].pk, "sensor", "lot 0818-02"),
            (sg.input_id, "resistance", "0"),
        ],
    )
    assert why_not(done) == {
        ("lead", "12,O"): "letter O is no figure",
        ("excitation", "3"): "excitation cannot be 3: it is one of 1, 2.5, 5",
        ("resistance", "1.234,5"): "“1.234,5” has a comma and a point: write one decimal sign",
        ("name", "F"): "there is a channel F already",
        ("lead", "6"): "the input has no sensor yet",
        ("colour", "red"): "there is no column colour",
        ("sensor", "lot 9"): "the library has no lot 9",
        ("sensor", "lot 0818-01"): "lot 0817-1 is on it: take it off first",
        ("sensor", "LC-2207"): "LC-2207 is on input 1.1 already",
        ("sensor", "lot 0818-02"): "input M1.1 measures a voltage, and Gauge 2 gives a "
        "bridge ratio",
        ("resistance", "0"): "resistance must be at least 1 Ω",
    }
    sg.refresh_from_db()
    assert (sg.conditioning.range_mv_v, sg.wiring.lead_length_m) == (40.0, 6.0)


def test_filling_down_counts_on_and_says_first_what_it_would_do(client, setup, gauges):
    free = inputs("A1")[4:8]
    put(client, setup, [(free[0].pk, "sensor", "lot 0818-03"), (free[0].pk, "name", "R2b")])
    path = f"/api/setups/{setup.pk}/fill-down"
    body = {"inputs": [p.pk for p in free], "columns": ["name", "sensor", "range"]}
    tried = client.post(path, body | {"dry": True}, content_type=JSON).json()
    assert [c["text"] for c in tried["cells"] if c["column"] == "name"] == ["R2c", "R3a", "R3b"]
    assert not setup.channels.filter(name="R2c").exists()
    done = client.post(path, body, content_type=JSON).json()
    assert why_not(done) == {}
    found = {c.name: c.sensor.serial for c in setup.channels.filter(name__startswith="R")}
    assert found == {
        "R2b": "lot 0818-03",
        "R2c": "lot 0818-04",
        "R3a": "lot 0818-05",
        "R3b": "lot 0818-06",
    }
    empty = client.post(
        path, body | {"inputs": [inputs("A2")[5].pk, free[1].pk]}, content_type=JSON
    )
    assert (empty.status_code, empty.json()["field"]) == (409, "inputs")


@pytest.mark.parametrize(
    ("name", "following"),
    [
        ("G4", "G5"),
        ("R1a", "R1b"),
        ("R1c", "R2a"),
        ("R09c", "R10a"),
        ("lot 0818-09", "lot 0818-10"),
        ("rod", "rod 2"),
        ("T1d", "T1d 2"),
    ],
)
def test_names_count_on(name, following):
    assert counted_on(name) == following


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("2.5", 2.5),
        ("2,5", 2.5),
        ("2,5 V", 2.5),
        (" 1\u2009000 ", 1000.0),
        ("\u22123", -3.0),
        ("1e-3", 1e-3),
        (".5", 0.5),
    ],
)
def test_figures_as_people_write_them(text, value):
    assert read_number(text, "V").value == value


@pytest.mark.parametrize("text", ["", "1,2,3", "inf", "nan", "0x10", "1_000", "12,O", "--3", "e5"])
def test_what_is_no_figure(text):
    with pytest.raises(InvalidInput):
        read_number(text, "V")


def test_names_change_places_in_one_paste(client, setup):
    force, clip, gauge = (setup.channels.get(name=n) for n in ("F", "e clip", "SG1"))
    a, b, c = (x.input_id for x in (force, clip, gauge))
    done = put(client, setup, [(a, "name", "e clip"), (b, "name", "SG1"), (c, "name", "F")])
    assert why_not(done) == {}
    assert [setup.channels.get(pk=x.pk).name for x in (force, clip, gauge)] == [
        "e clip",
        "SG1",
        "F",
    ]
    assert client.post(f"/api/setups/{setup.pk}/undo").status_code == 200
    assert setup.channels.get(pk=force.pk).name == "F"
    done = put(client, setup, [(a, "name", "e clip"), (b, "name", "x" * 31)])  # it keeps its own
    assert why_not(done)["name", "e clip"] == "there is a channel e clip already"


def test_names_that_cannot_stand_together_are_not_given():
    now = {1: "a", 2: "b", 3: "c"}
    assert names_given(now, {1: "b", 2: "a"}) == {1: "b", 2: "a"}
    assert names_given(now, {1: "b", 2: "c"}) == {}  # c stays, so b does, so a does
    assert names_given(now, {1: "x", 2: "x"}) == {1: "x"}
    assert names_given(now, {1: "a", 4: "d"}) == {1: "a", 4: "d"}
