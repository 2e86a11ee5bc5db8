"""Names that people cannot tell apart are the same name, whatever way they come in."""

import pytest
from pydantic import TypeAdapter, ValidationError
from yoke_server.accounts.models import Role
from yoke_server.accounts.services import add_person
from yoke_server.common.http.fields import Name, Notes
from yoke_server.common.http.problems import Problem
from yoke_server.sensors.models import Sensor
from yoke_server.setups.naming import free_name, names_given, next_name
from yoke_server.setups.revisions.services import make_setup

JSON = "application/json"


@pytest.mark.parametrize(
    "unseen",
    [
        "\u00ad",
        "\u034f",
        "\u115f",
        "\u200b",
        "\u202e",
        "\u2800",
        "\u3164",
        "\ufe0f",
        "\uffa0",
        "\ufeff",
        "\U000e0041",
        "\U000e0100",
        "\x00",
        "\x85",
    ],
    ids=ascii,
)
def test_what_nobody_sees_is_in_no_text(unseen):
    for kind in (Name, Notes):
        with pytest.raises(ValidationError, match="cannot be printed"):
            TypeAdapter(kind).validate_python(f"SG{unseen}1")


@pytest.mark.parametrize(
    ("typed", "kept"),
    [(" SG 1 ", "SG 1"), ("SG  1", "SG 1"), ("SG\u00a0\u20091", "SG 1"), ("e\u0301", "é")],
)
def test_a_name_has_one_form(typed, kept):
    assert TypeAdapter(Name).validate_python(typed) == kept


def test_lines_keep_their_shape():
    assert TypeAdapter(Notes).validate_python("a  b\n  c") == "a  b\n  c"


def test_names_are_counted_on_past_those_that_look_alike():
    assert next_name("C1", {"c2"}) == "C3"
    assert free_name("force", {"f"}) == "F2"
    assert names_given({1: "a", 2: "b"}, {1: "B"}) == {}
    assert names_given({1: "a", 2: "b"}, {1: "B", 2: "A"}) == {1: "B", 2: "A"}
    assert names_given({1: "a", 2: "b"}, {1: "x", 2: "X"}) == {1: "x"}
    assert names_given({1: "a"}, {1: "A"}) == {1: "A"}  # its own in another case


@pytest.fixture
def client(as_role):
    return as_role("engineer")


@pytest.mark.django_db
def test_no_second_one_looks_like_the_first(client, setup):
    project, bench = f"projects/{setup.project_id}", setup.bench
    channel = setup.channels.get(name="SG1")
    device = {"label": "a1", "driver": "bridge amplifier", "host": "10.0.0.7", "port": 5025}
    for method, path, body, field in (
        ("post", "projects", {"name": "TUBE coupons,  aluminium"}, "name"),
        ("post", "benches", {"name": "shed BENCH"}, "name"),
        (
            "post",
            f"{project}/setups",
            {"kind": "tension", "name": "tension", "bench_id": bench.pk},
            "name",
        ),
        ("patch", f"channels/{channel.pk}", {"name": "f"}, "name"),
        ("put", f"benches/{bench.pk}/devices", device, "label"),
        (
            "post",
            "people",
            {"username": "Technician", "role": "reviewer", "password": "a long one, 42"},
            "username",
        ),
    ):
        answer = getattr(client, method)(f"/api/{path}", body, content_type=JSON)
        assert (answer.status_code, answer.json()["field"]) == (409, field), answer.content
    own_case = client.patch(f"/api/channels/{channel.pk}", {"name": "sg1"}, content_type=JSON)
    assert own_case.status_code == 200


@pytest.mark.django_db
def test_a_table_brings_no_serial_that_looks_like_one_that_is_there(client, setup):
    before = Sensor.objects.count()
    table = "kind,name,serial,circuit,rated_output,capacity\n"
    cell = "load cell,Cell,{},full axial,2 mV/V,5 kN\n"
    for rows, said in (
        (cell.format("lc-2207"), "The library has LC-2207, which reads alike."),
        (cell.format("NEW-1") + cell.format("new-1"), "new-1 stands in the file twice."),
    ):
        answer = client.post(
            "/api/library/import?dry=false", table + rows, content_type="application/octet-stream"
        )
        assert (answer.status_code, said in answer.json()["title"]) == (422, True), answer.content
    assert Sensor.objects.count() == before


@pytest.mark.django_db
def test_a_file_of_a_setup_names_its_channels_apart(client, setup, engineer):
    document = client.get(f"/api/setups/{setup.pk}/revisions/{setup.version}/file").json()
    document["channels"][1]["name"] = document["channels"][0]["name"].lower()
    with pytest.raises(Problem, match="Two channels have the name"):
        make_setup(
            engineer, setup.project_id, bench_id=setup.bench_id, name="Again", document=document
        )


@pytest.mark.django_db
def test_a_person_is_told_apart_by_name(setup):
    with pytest.raises(Problem, match="There is, or was, a person ENGINEER"):
        add_person("ENGINEER", Role.REVIEWER, "a long one, 42")
