"""Projects, setups and benches from nothing; copies, the archive, and who comes first."""

from urllib.parse import quote

import pytest
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext
from yoke_server.accounts.services import first_code
from yoke_server.bench.models import Bench
from yoke_server.demo import services as demo
from yoke_server.derive.computing import add_suggested
from yoke_server.derive.models import Recipe
from yoke_server.kinds.motions.force_sine import ForceSine
from yoke_server.kinds.stops.cycles_done import CyclesDone
from yoke_server.kinds.stops.limit import Limit
from yoke_server.record.preflight import preflight_issues
from yoke_server.sensors.models import Sensor
from yoke_server.setups.freezing import freeze, newest
from yoke_server.setups.models import Balance, Project, Setup
from yoke_server.setups.services import keep_revision

from tests import recorded
from tests.problems import code_of

JSON = "application/json"


def send(client, method, url, body=None):
    return getattr(client, method)(url, body or {}, content_type=JSON)


@pytest.fixture
def client(as_role):
    return as_role("engineer")


def listed(client, query=""):
    return client.get(f"/api/projects{query}").json()["items"]


def line_of(client, setup):
    projects = listed(client)
    return next(s for p in projects for s in p["setups"] if s["id"] == setup.pk)


def test_a_newcomer_gets_from_nothing_to_a_setup(transactional_db):
    client = Client()
    assert client.get("/api/welcome").json() == {"empty": True}
    body = {"username": "ada", "password": "long enough 7", "code": "0000000000"}
    wrong = send(client, "post", "/api/first-person", body)
    assert (wrong.status_code, wrong.json()["field"]) == (403, "code")
    body["code"] = f" {first_code().upper()} "
    weak = send(client, "post", "/api/first-person", body | {"password": "ada"})
    assert (weak.status_code, weak.json()["field"]) == (422, "password")
    assert send(client, "post", "/api/first-person", body).json()["role"] == "engineer"
    assert client.get("/api/welcome").json() == {"empty": False}
    assert send(Client(), "post", "/api/first-person", body).status_code == 409
    bench = send(client, "post", "/api/benches", {"name": "Bench 1"}).json()
    device = {"label": "A1", "driver": "bridge amplifier", "host": "127.0.0.1", "port": 5025}
    bench = send(client, "put", f"/api/benches/{bench['id']}/devices", device).json()
    assert len(bench["devices"][0]["inputs"]) == 8
    project = send(client, "post", "/api/projects", {"name": "First"}).json()
    body = {"kind": "component", "bench_id": bench["id"], "name": "Static"}
    made = send(client, "post", f"/api/projects/{project['id']}/setups", body).json()
    (line,) = made["setups"]
    assert (line["on_bench"], line["next"]["stage"]) == (True, "wire")
    assert Setup.objects.get(pk=line["id"]).motion.kind == "force_ramp"


@pytest.mark.parametrize(
    ("url", "body", "field"),
    [
        ("/api/projects", {"name": "Tube coupons, aluminium"}, "name"),
        ("/api/projects", {"name": " "}, "name"),
        ("/api/benches", {"name": "Shed bench"}, "name"),
        ("{project}/setups", {"kind": "tension", "name": "Tension"}, "name"),
        ("{project}/setups", {"kind": "magic", "name": "x"}, "kind"),
    ],
)
def test_what_is_there_already_or_unknown_is_refused(client, setup, url, body, field):
    body = body | ({"bench_id": setup.bench_id} if "setups" in url else {})
    answer = send(client, "post", url.format(project=f"/api/projects/{setup.project_id}"), body)
    assert answer.status_code in (409, 422)
    assert answer.json()["field"] == field
    assert answer.json()["hint"]


@pytest.mark.parametrize(
    ("change", "status", "field"),
    [
        ({"driver": "magic"}, 422, "driver"),
        ({"driver": "load frame"}, 409, "label"),
        ({"port": 0}, 422, "port"),
        ({"host": "a host; rm -rf"}, 422, "host"),
    ],
)
def test_a_device_is_of_a_known_make_at_an_address(client, setup, change, status, field):
    device = {"label": "A1", "driver": "bridge amplifier", "host": "127.0.0.1", "port": 5025}
    url = f"/api/benches/{setup.bench_id}/devices"
    answer = send(client, "put", url, device | change)
    assert (answer.status_code, answer.json()["field"]) == (status, field)
    assert send(client, "put", url, device).status_code == 200
    assert setup.bench.devices.get(label="A1").port == 5025


def test_a_device_that_a_setup_uses_stays(client, setup):
    used = setup.bench.devices.get(label="A1")
    answer = client.delete(f"/api/devices/{used.pk}")
    assert (answer.status_code, code_of(answer)) == (409, "in-use")
    free = setup.bench.devices.get(label="Load frame")
    assert client.delete(f"/api/devices/{free.pk}").status_code == 204


def test_a_setup_again_brings_zeros_and_recipes_but_no_runs(client, setup):
    first = setup.channels.first()
    Balance.objects.create(setup=setup, channel_key=first.key, zero=1.5e-5)
    setup.stops = [Limit(channel=first.key, highest=1e4)]
    setup.save()
    keep_revision(None, setup, "a limit")
    recorded.record(setup, [recorded.block(i) for i in range(3)])
    add_suggested(setup.pk)
    answer = send(client, "post", f"/api/setups/{setup.pk}/duplicate").json()
    copy = Setup.objects.get(name="Tension 2")
    assert {s["name"] for s in answer["setups"]} == {"Tension", "Tension 2"}
    was, now = freeze(setup), freeze(copy)
    assert [c.name for c in now.channels] == [c.name for c in was.channels]
    assert now.channels[0].zero == 1.5e-5
    assert now.channels[0].zeroed_at == was.channels[0].zeroed_at
    assert not {c.key for c in now.channels} & {c.key for c in was.channels}
    assert now.stops[0].channel == now.channels[0].key
    assert newest(Balance, setup.pk)[first.key].setup_id == setup.pk  # it stays the original's
    assert (copy.runs.count(), copy.version) == (0, 1)
    assert Recipe.objects.get(setup=copy).kind == "tension"
    again = send(client, "post", f"/api/projects/{setup.project_id}/duplicate").json()
    assert again["name"] == "Tube coupons, aluminium 2"
    assert len(again["setups"]) == 2


def test_an_archived_project_is_out_of_the_way_and_comes_back(client, setup):
    url = f"/api/projects/{setup.project_id}/archive"
    assert send(client, "post", url).json()["archived_at"]
    assert listed(client) == []
    (away,) = listed(client, "?archived=true")
    assert away["setups"][0]["name"] == "Tension"
    send(client, "post", f"{url}?restore=true")
    assert len(listed(client)) == 1
    recorded.begin(setup)
    refused = send(client, "post", url)
    assert (refused.status_code, Project.objects.get().archived_at) == (409, None)


def test_the_next_action_follows_what_a_setup_is_at(client, setup):
    def action():
        return line_of(client, setup)["next"]["stage"]

    assert action() == "calibrate"
    for channel in setup.channels.all():
        Balance.objects.create(setup=setup, channel_key=channel.key, zero=0.0)
    assert action() == "record"
    run = recorded.record(setup, [recorded.block(i) for i in range(3)])
    assert action() == "report"
    line = line_of(client, setup)
    assert (line["last_run"]["id"], line["last_run"]["channel_name"]) == (run.pk, "F")
    add_suggested(setup.pk)
    assert (action(), line_of(client, setup)["stale"]) == ("derive", 1)
    setup.channels.all().delete()
    assert action() == "wire"


def test_a_rosette_is_wired_as_one_and_taken_back_as_one(client, db):
    static, _ = demo.load_fork()
    rosette = [c for c in freeze(static).channels if c.grid]
    assert [(c.name, c.input_number) for c in rosette] == [("R1a", 1), ("R1b", 2), ("R1c", 3)]
    assert [round(c.grid.angle, 3) for c in rosette] == [0, 0.785, 1.571]
    url = f"/api/setups/{static.pk}"
    served = client.get(url).json()
    assert served["computed_offers"] == []  # the demo has it
    strain = next(c for c in served["computed"] if c["name"] == "R1 ε1")
    (offer,) = client.delete(f"{url}/computed/{strain['key']}").json()["computed_offers"]
    assert offer == {"name": "R1 ε1", "formula": "strain1(R1)"}
    assert client.post(f"{url}/computed", offer, content_type="application/json").status_code == 201
    assert client.get(url).json()["computed_offers"] == []
    lot = Sensor.objects.create(
        kind="rosette",
        name="Second",
        serial="lot 2",
        quantity="strain",
        spec=Sensor.objects.get(serial="lot 0902-1").spec,
    )
    inputs = static.bench.devices.get(label="A3").inputs
    body = {"sensor_id": lot.pk, "name": "R2"}
    url = f"/api/setups/{static.pk}"
    full = send(client, "post", f"{url}/channels", body | {"input_id": inputs.get(number=7).pk})
    assert code_of(full) == "input-unfit"
    static.channels.filter(name__in=("F axle", "B1", "G4")).delete()
    body["input_id"] = inputs.get(number=4).pk
    wired = send(client, "post", f"{url}/channels", body).json()
    assert [c["name"] for c in wired["channels"] if "R2" in c["name"]] == ["R2a", "R2b", "R2c"]
    assert wired["free_names"]["rosette"] == "R3"
    send(client, "post", f"{url}/undo")
    assert not static.channels.filter(name__startswith="R2").exists()


def test_what_a_bench_or_its_channels_lack_is_said_before_a_run(setup):
    def codes():
        return {g.code for g in preflight_issues(setup) if g.blocks}

    assert not codes() & {"no_actuator", "no_force_control", "stop_unfit"}
    setup.motion = ForceSine(lowest_n=1.0, highest_n=2.0, frequency_hz=1.0)
    assert "no_force_control" in codes()
    setup.stops = [CyclesDone(cycles=3)]
    assert "stop_unfit" not in codes()
    setup.stops = [Limit(channel="gone", highest=1.0)]
    assert "stop_unfit" in codes()
    Bench.objects.get(pk=setup.bench_id).devices.filter(label="Load frame").delete()
    assert "no_actuator" in codes()


def test_only_who_holds_the_yoke_puts_another_setup_on_the_bench(as_role, db):
    static, fatigue = demo.load_fork()
    client = as_role("technician")
    url = f"/api/setups/{fatigue.pk}/bench"
    assert code_of(send(client, "post", url)) == "yoke-needed"
    send(client, "post", f"/api/benches/{fatigue.bench_id}/yoke")
    answer = send(client, "post", url)
    assert "other_setup" not in {g["code"] for g in answer.json()["preflight"]}
    assert "other_setup" in {g.code for g in preflight_issues(Setup.objects.get(pk=static.pk))}


def test_the_list_comes_in_pages_and_nothing_is_out_of_reach(client, setup):
    for i in range(65):
        Project.objects.create(name=f"Project {i}", customer="Ardent" if i % 2 else "")
    names, before, pages = [], "", 0
    while before is not None:
        page = client.get(f"/api/projects?limit=20{before}").json()
        assert page["count"] == 66
        names += [p["name"] for p in page["items"]]
        before, pages = page["next"] and f"&before={page['next']}", pages + 1
        if pages == 1:
            Project.objects.create(name="Meanwhile").delete()
    assert names == [f"Project {i}" for i in reversed(range(65))] + ["Tube coupons, aluminium"]
    assert pages == 4


@pytest.mark.parametrize(
    ("words", "names"),
    [
        ("ardent 7", ["Project 7"]),
        ("PROJECT 4 ard", []),
        ("tension", ["Tube coupons, aluminium"]),
        ("%", []),
        ("project_1", []),
        ("  ", None),
    ],
)
def test_a_project_is_found_by_any_of_its_words(client, setup, words, names):
    Setup.objects.update(name="Tension at 23")
    for i in range(9):
        Project.objects.create(name=f"Project {i}", customer="Ardent" if i % 2 else "")
    found = [p["name"] for p in listed(client, f"?search={quote(words)}")]
    assert found == names if names is not None else len(found) == 10


@pytest.mark.parametrize(
    "query", ["limit=0", "limit=201", "before=0", "before=x", f"search={'a' * 121}"]
)
def test_a_page_that_cannot_be_is_refused(client, setup, query):
    assert client.get(f"/api/projects?{query}").status_code == 422


def test_a_page_costs_the_same_queries_whatever_stands_on_it(client, setup):
    """Facts of its rows come by one query a table, and are those of each setup by itself."""
    project = setup.project_id
    recorded.record(setup, [recorded.block(i) for i in range(3)])
    add_suggested(setup.pk)

    def queries():
        with CaptureQueriesContext(connection) as found:
            page = listed(client, "?limit=200")
        return len(found), page

    queries()  # what is prepared once
    few, before = queries()
    for _ in range(6):
        send(client, "post", f"/api/projects/{project}/duplicate")
    many, page = queries()
    assert many <= few + 1
    (own,) = (p for p in page if p["id"] == project)
    assert [own] == before
    copies = [s for p in page for s in p["setups"] if p["id"] != project]
    assert {(s["channels"], s["runs"], s["last_run"]) for s in copies} == {(4, 0, None)}
    assert own["setups"][0]["runs"] == 1 and own["setups"][0]["last_run"]["name"] == "C1 run 1"
