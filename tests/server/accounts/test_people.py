"""People: added, given roles and passwords, sent out, removed; and one's own password."""

import pytest
from django.core.management import CommandError, call_command
from django.test import Client
from yoke_server.accounts.models import User
from yoke_server.bench.models import Bench
from yoke_server.ledger.models import Entry

from tests.problems import code_of

JSON = "application/json"
GOOD = "a longer one, 42"


@pytest.fixture
def engineer(setup, as_role):
    return as_role("engineer")


def id_of(name):
    return User.objects.get(username=name).pk


def newest():
    entry = Entry.objects.latest("id")
    return entry.action, entry.actor and entry.actor.username


def signed_in(name, password):
    client = Client()
    body = {"username": name, "password": password}
    return client, client.post("/api/session", body, content_type=JSON).status_code


def is_in(client):
    return client.get("/api/session").status_code == 200


def add(client, name="kim", role="technician", password=GOOD):
    body = {"username": name, "role": role, "password": password}
    return client.post("/api/people", body, content_type=JSON)


def test_a_person_is_added_and_comes_in(engineer):
    weak = add(engineer, password="1234")
    assert (weak.status_code, weak.json()["field"]) == (422, "password")
    assert not User.objects.filter(username="kim").exists()
    assert add(engineer).status_code == 201
    assert newest() == ("Added kim as technician", "engineer")
    again = add(engineer, role="engineer", password="another one, 4711")
    assert (again.status_code, again.json()["field"]) == (409, "username")
    assert signed_in("kim", GOOD)[1] == 200
    page = engineer.get("/api/people", {"search": "kim"}).json()
    assert [(p["username"], p["removed"]) for p in page["items"]] == [("kim", False)]


def test_people_come_in_pages_and_who_was_removed_apart(engineer):
    everybody = User.objects.bulk_create(
        User(username=f"p{n:03}", role="reviewer", is_active=n % 10 != 0) for n in range(100)
    )
    first = engineer.get("/api/people", {"limit": 50}).json()
    second = engineer.get("/api/people", {"limit": 50, "after": first["next"]}).json()
    names = [p["username"] for p in first["items"] + second["items"]]
    may = User.objects.filter(is_active=True)
    assert names == sorted(may.values_list("username", flat=True))
    assert (first["may_sign_in"], first["removed"], second["next"]) == (may.count(), 10, None)
    gone = engineer.get("/api/people", {"removed": True, "search": "p0"}).json()
    assert (len(gone["items"]), gone["count"]) == (10, 10)
    assert {p["username"] for p in gone["items"]} == {p.username for p in everybody[::10]}


def test_a_role_is_changed_and_the_sessions_of_the_old_one_end(engineer):
    add(engineer)
    client, _ = signed_in("kim", GOOD)
    client.post(f"/api/benches/{Bench.objects.get().pk}/yoke", content_type=JSON)
    path = f"/api/people/{id_of('kim')}"
    told = engineer.patch(path, {"role": "reviewer"}, content_type=JSON).json()
    assert (told["role"], newest()) == (
        "reviewer",
        ("Made kim reviewer, from technician", "engineer"),
    )
    assert not is_in(client) and Bench.objects.get().yoke_holder is None
    entries = Entry.objects.count()
    engineer.patch(path, {"role": "reviewer"}, content_type=JSON)
    assert Entry.objects.count() == entries  # nothing was changed


def test_who_is_removed_is_out_at_once_and_may_come_back(engineer):
    add(engineer)
    client, _ = signed_in("kim", GOOD)
    path = f"/api/people/{id_of('kim')}"
    assert engineer.delete(path).json()["removed"]
    assert not is_in(client) and signed_in("kim", GOOD)[1] == 401
    assert add(engineer).status_code == 409  # the name stays theirs
    assert Entry.objects.filter(actor__username="kim").exists()
    back = engineer.post(f"{path}/password", {"password": "a new one, 4711"}, content_type=JSON)
    assert not back.json()["removed"]
    assert newest()[0] == "Gave kim a new password, and took them back"
    assert signed_in("kim", "a new one, 4711")[1] == 200


def test_sessions_are_ended_and_the_password_stays(engineer):
    add(engineer)
    client, _ = signed_in("kim", GOOD)
    assert engineer.post(f"/api/people/{id_of('kim')}/end-sessions").status_code == 200
    assert not is_in(client) and newest() == ("Ended the sessions of kim", "engineer")
    assert signed_in("kim", GOOD)[1] == 200 and is_in(engineer)


@pytest.mark.parametrize("action", ["role", "removal"])
def test_somebody_stays_who_may_do_this(engineer, action):
    path = f"/api/people/{id_of('engineer')}"

    def done():
        if action == "removal":
            return engineer.delete(path)
        return engineer.patch(path, {"role": "reviewer"}, content_type=JSON)

    refused = done()
    assert (refused.status_code, code_of(refused)) == (409, "in-use")
    assert is_in(engineer)
    add(engineer, role="engineer")
    assert done().status_code == 200 and not is_in(engineer)


def test_a_person_changes_the_own_password_and_other_sessions_end(engineer):
    add(engineer)
    here, _ = signed_in("kim", GOOD)
    there, _ = signed_in("kim", GOOD)

    def change(old, new):
        body = {"old": old, "new": new}
        return here.post("/api/session/password", body, content_type=JSON)

    wrong = change("guess", "another one, 4711")
    assert (wrong.status_code, wrong.json()["field"]) == (403, "old")
    weak = change(GOOD, "1234")
    assert (weak.status_code, weak.json()["field"]) == (422, "new")
    assert is_in(there)
    assert change(GOOD, "another one, 4711").status_code == 204
    assert is_in(here) and not is_in(there)
    assert newest() == ("Changed the own password", "kim")
    assert signed_in("kim", "another one, 4711")[1] == 200
    answers = [change("guess", "yet another, 99").status_code for _ in range(12)]
    assert answers.count(403) == 9 and answers[-1] == 429  # guessed here as little as elsewhere


def test_the_command_overwrites_nobody_unless_told(engineer, monkeypatch):
    command = "yoke_server.accounts.management.commands.add_person.getpass.getpass"
    monkeypatch.setattr(command, lambda prompt: GOOD)
    call_command("add_person", "kim", "reviewer")
    client, _ = signed_in("kim", GOOD)
    with pytest.raises(CommandError, match=r"already .reviewer.; nothing was changed"):
        call_command("add_person", "kim", "engineer")
    assert is_in(client)
    call_command("add_person", "kim", "engineer", "--replace")
    assert User.objects.get(username="kim").role == "engineer" and not is_in(client)
    assert newest()[0] == "Gave kim a new password and the role engineer"
