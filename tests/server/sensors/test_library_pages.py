"""The sensor library in pages: what is behind the first one, sorts and their counts."""

from datetime import timedelta

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from yoke_server.common.clock import laboratory_today
from yoke_server.kinds.inputs import INPUTS
from yoke_server.sensors.models import Sensor
from yoke_server.setups.models import Channel

pytestmark = pytest.mark.django_db


@pytest.fixture
def client(as_role):
    return as_role("engineer")


@pytest.fixture
def asked(client):
    def ask(path, **query):
        answer = client.get(f"/api/{path}", query)
        assert answer.status_code == 200, answer.content
        return answer.json()

    return ask


@pytest.fixture
def shelf(setup):
    """The demo's sensors and 60 load cells more, added in no order of their serials."""
    cell = Sensor.objects.get(serial="LC-2207")
    Sensor.objects.bulk_create(
        Sensor(
            kind=cell.kind,
            name=f"Load cell {n} kN",
            serial=f"ZZ-{n * 37 % 60:03}",
            quantity="force",
            spec=cell.spec,
            place="shelf 9",
        )
        for n in range(60)
    )


def walked(asked, path, **query):
    """Every row of all pages."""
    rows, after = [], {}
    while True:
        page = asked(path, **query, **after)
        rows += page["items"]
        if page["next"] is None:
            assert len(rows) == page["count"]
            return rows
        assert len(page["items"]) == query["limit"]
        after = {"after": page["next"]}


@pytest.mark.parametrize("limit", [1, 7, 30])
def test_pages_give_each_instrument_once_by_kind_and_serial(asked, shelf, limit):
    rows = [(r["kind"], r["serial"]) for r in walked(asked, "library", limit=limit)]
    everything = Sensor.objects.values_list("kind", "serial").order_by("kind", "serial")
    assert rows == list(everything)


def test_a_row_added_or_gone_meanwhile_moves_no_page(asked, shelf):
    first = asked("library", kind="load cell", limit=10)
    last = first["items"][-1]
    Sensor.objects.create(
        kind="load cell",
        name="New",
        serial="A-0",
        quantity="force",
        spec=Sensor.objects.get(pk=last["id"]).spec,
    )
    Sensor.objects.filter(pk=first["items"][0]["id"], channel=None).delete()
    second = asked("library", kind="load cell", limit=10, after=first["next"])
    assert min(r["serial"] for r in second["items"]) > last["serial"]


def test_each_sort_gives_what_its_count_says(asked, shelf):
    today = laboratory_today()
    days = {"overdue": -1, "soon": 0, "in force": 31}
    for n, left in enumerate(days.values()):
        rows = Sensor.objects.filter(serial__startswith=f"ZZ-0{n}")
        rows.update(due_on=today + timedelta(days=left), calibrated_on=today - timedelta(days=90))
    counts = asked("library")["counts"]
    assert counts["all"] == Sensor.objects.count()
    assert set(counts["status"]) == {"overdue", "soon", "in force", "without"}
    for by in ("kind", "status", "where"):
        assert sum(counts[by].values()) == counts["all"]
        for value, count in counts[by].items():
            rows = walked(asked, "library", limit=50, **{by: value})
            assert len(rows) == count
            said = {
                "kind": [r["kind"] for r in rows],
                "status": [r["calibration_status"]["status"] for r in rows],
                "where": ["bench" if r["where"] else "store" for r in rows],
            }[by]
            assert set(said) <= {value}
    for status in days:
        assert counts["status"][status] >= 10
    assert counts["where"]["bench"] == Channel.objects.values("sensor").distinct().count()


def test_words_find_what_is_on_no_first_page(asked, shelf):
    found = asked("library", search="cell shelf ZZ-059", limit=5)
    assert [r["serial"] for r in found["items"]] == ["ZZ-059"]
    assert asked("library", search="no such thing")["count"] == 0


def test_what_is_out_of_use_is_a_list_of_its_own(client, asked, shelf):
    gone = Sensor.objects.get(serial="ZZ-003")
    assert client.post(f"/api/sensors/{gone.pk}/retire").status_code == 200
    assert [r["serial"] for r in asked("library", retired=True)["items"]] == ["ZZ-003"]
    assert asked("library", search="ZZ-003")["count"] == 0
    assert asked("sensors", search="ZZ-003")["count"] == 0


@pytest.mark.parametrize("signal", sorted({i.wiring.signal for i in INPUTS}))
def test_an_input_is_offered_the_sensors_whose_signal_it_measures(asked, shelf, signal):
    rows = walked(asked, "sensors", signal=signal, limit=20)
    assert {r["id"] for r in rows} == {s.pk for s in Sensor.objects.all() if s.signal == signal}


@pytest.mark.parametrize(
    "query",
    [{"limit": 0}, {"limit": 1000}, {"after": 0}, {"status": "lost"}, {"search": "x" * 121}],
)
def test_what_asks_for_no_page_is_refused(client, setup, query):
    assert client.get("/api/library", query).status_code == 422


def test_a_page_takes_as_many_queries_as_a_row(asked, shelf):
    counts = []
    for limit in (1, 60):
        with CaptureQueriesContext(connection) as taken:
            asked("library", limit=limit)
        counts.append(len(taken))
    assert counts[0] == counts[1]
