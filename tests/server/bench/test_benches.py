"""Benches: listed in pages, removed, put away; a recorder serves those that are in use."""

import threading

import pytest
from django.db import connection
from django.test import Client
from yoke_server.accounts.models import User
from yoke_server.bench.models import Bench, StopRequest
from yoke_server.bench.services import add_device

from tests.problems import code_of
from tests.processes import wait_for
from tests.server.lab import recorder_here

JSON = "application/json"
EMPTY = 60


@pytest.fixture
def client(as_role):
    return as_role("engineer")


def send(client, method, path, body=None):
    return getattr(client, method)(f"/api/{path}", body or {}, content_type=JSON)


def many():
    return Bench.objects.bulk_create(Bench(name=f"Bench {n:03}") for n in range(EMPTY))


@pytest.mark.django_db
def test_benches_come_in_pages_with_what_is_on_them(client, setup, django_assert_max_num_queries):
    many()
    with django_assert_max_num_queries(10):
        first = client.get("/api/benches", {"limit": 50}).json()
    second = client.get("/api/benches", {"limit": 50, "after": first["next"]}).json()
    names = [b["name"] for b in first["items"] + second["items"]]
    assert names == sorted(Bench.objects.values_list("name", flat=True))
    assert (first["count"], second["next"]) == (EMPTY + 1, None)
    Bench.objects.get(pk=first["next"]).delete()
    gone = client.get("/api/benches", {"limit": 50, "after": first["next"]})
    assert (gone.status_code, code_of(gone)) == (409, "changed-meanwhile")
    (shed,) = client.get("/api/benches", {"search": "shed"}).json()["items"]
    assert (shed["id"], shed["setups"]) == (setup.bench_id, 1)
    assert shed["devices"] == setup.bench.devices.count()


@pytest.mark.django_db
def test_a_bench_that_no_setup_is_made_for_can_be_removed(client, as_role, setup):
    spare = send(client, "post", "benches", {"name": "Spare"}).json()
    add_device(Bench.objects.get(pk=spare["id"]), "A1", "bridge amplifier", host="x", port=1)
    assert send(as_role("technician"), "delete", f"benches/{spare['id']}").status_code == 403
    assert send(client, "delete", f"benches/{spare['id']}").status_code == 204
    assert send(client, "delete", f"benches/{spare['id']}").status_code == 404
    used = send(client, "delete", f"benches/{setup.bench_id}")
    assert (used.status_code, code_of(used)) == (409, "in-use")
    assert Bench.objects.get() == setup.bench


@pytest.mark.django_db
def test_what_was_put_away_is_kept_and_not_worked_with(client, setup, as_role):
    path = f"benches/{setup.bench_id}"
    assert send(client, "post", f"{path}/yoke").status_code == 200
    away = send(client, "post", f"{path}/archive").json()
    assert (away["yoke_holder"], bool(away["archived_at"])) == ("", True)
    assert client.get("/api/benches").json()["items"] == []
    (line,) = client.get("/api/benches", {"archived": True}).json()["items"]
    assert line["id"] == setup.bench_id
    project = f"projects/{setup.project_id}"
    made = {"kind": "tension", "bench_id": setup.bench_id, "name": "Another"}
    for refused in (
        send(client, "post", f"{path}/yoke"),
        send(client, "post", f"{project}/setups", made),
        send(client, "post", f"setups/{setup.pk}/runs", {"version": setup.version}),
    ):
        assert refused.status_code == 409
    assert client.get(f"/api/setups/{setup.pk}").status_code == 200
    assert send(client, "post", f"{path}/archive?restore=true").json()["archived_at"] is None
    assert send(client, "post", f"{path}/yoke").status_code == 200


@pytest.mark.django_db
def test_who_holds_the_yoke_is_not_put_away_with_the_bench(client, setup, driving):
    driving("technician")
    for method, path in (("post", "/archive"), ("delete", "")):
        refused = send(client, method, f"benches/{setup.bench_id}{path}")
        assert (refused.status_code, code_of(refused)) == (409, "yoke-needed")
    assert Bench.objects.get().archived_at is None


def connections():
    with connection.cursor() as cursor:
        cursor.execute("SELECT count(*) FROM pg_stat_activity WHERE datname = current_database()")
        return cursor.fetchone()[0]


@pytest.mark.django_db(transaction=True)
@pytest.mark.xdist_group("recorder")
def test_a_bench_takes_connections_only_while_it_is_in_use(database, setup):
    """Whose devices can be found, and which can be stopped, all the same."""
    spare = many()[0]
    with recorder_here():
        wait_for(lambda: setup.bench.devices.filter(link="lost").exists(), "the bench in use")
        before = connections()
        client = Client()
        client.force_login(User.objects.get(username="engineer"))
        answers = []
        asked = threading.Thread(
            target=lambda: answers.append(send(client, "post", f"benches/{spare.pk}/find"))
        )
        asked.start()
        asked.join()
        assert answers[0].status_code == 200, answers[0].content
        assert send(client, "post", f"benches/{spare.pk}/emergency-stop").status_code == 204
        assert StopRequest.objects.get().confirmed
        assert before < 20
        Bench.objects.update(archived_at="2026-01-01T00:00:00Z")
        wait_for(lambda: connections() <= 4, "all benches to be let go")
