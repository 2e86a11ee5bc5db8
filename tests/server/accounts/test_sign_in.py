"""Wrong passwords are limited by account and by address, whatever a client says of itself."""

import re
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta

import pytest
from django.contrib.auth.hashers import PBKDF2PasswordHasher
from django.db import connection
from django.db.models import F
from django.test import Client, RequestFactory
from yoke_server.accounts.address import client_address
from yoke_server.accounts.models import PasswordTry, User
from yoke_server.accounts.tasks import forget_what_has_expired
from yoke_server.config.settings import PASSWORD_HASHERS
from yoke_server.ledger.models import Entry

JSON = "application/json"


@pytest.fixture
def try_in(setup):
    client = Client()

    def attempt(name, password, **more):
        body = {"username": name, "password": password}
        return client.post("/api/session", body, content_type=JSON, **more)

    return attempt


def codes(answers):
    return [a.status_code for a in answers]


def later(seconds):
    """As if the tries so far had been so long ago."""
    PasswordTry.objects.update(at=F("at") - timedelta(seconds=seconds))


def test_sixty_wrong_passwords_are_limited_whatever_is_forwarded(try_in):
    answers = codes(
        try_in("engineer", "guess", HTTP_X_FORWARDED_FOR=f"10.0.0.{i}") for i in range(60)
    )
    assert answers == [401] * 10 + [429] * 50
    assert try_in("engineer", "demo-engineer").status_code == 429


def test_a_right_sign_in_between_resets_nothing(try_in):
    """A guesser with an account of their own has no more tries than anybody."""
    answers = []
    for _ in range(12):
        answers += [try_in("engineer", "guess"), try_in("reviewer", "demo-reviewer")]
    assert codes(answers[::2]) == [401] * 10 + [429] * 2
    assert codes(answers[1::2]) == [200] * 12
    many = codes(try_in(f"person-{i}", "guess") for i in range(25))
    assert many == [401] * 20 + [429] * 5  # thirty from one address, whatever the name
    assert try_in("reviewer", "demo-reviewer").status_code == 429


def test_nobody_keeps_out_somebody_who_is_elsewhere(try_in):
    for _ in range(40):
        try_in("technician", "guess", REMOTE_ADDR="10.1.1.1")
    assert try_in("technician", "demo-technician").status_code == 200
    for i in range(40):  # from many addresses together, for a minute
        try_in("technician", "guess", REMOTE_ADDR=f"10.2.{i}.1")
    answer = try_in("technician", "demo-technician")
    assert answer.status_code == 429
    assert int(re.search(r"(\d+) seconds", answer.json()["hint"])[1]) <= 60
    later(61)
    assert try_in("technician", "demo-technician").status_code == 200


def test_a_wait_ends_when_it_said_whatever_is_tried_meanwhile(try_in):
    for _ in range(10):
        try_in("engineer", "guess")
    hint = try_in("engineer", "demo-engineer").json()["hint"]
    assert hint == "Wait 5 minutes, then try again."
    later(200)
    for password in ("demo-engineer", "guess", "demo-engineer"):
        answer = try_in("engineer", password)
        assert answer.status_code == 429
        assert 95 < int(re.search(r"(\d+) minutes", answer.json()["hint"])[1]) * 60 <= 120
    later(101)
    assert try_in("engineer", "demo-engineer").status_code == 200


@pytest.mark.django_db(transaction=True)
def test_many_at_once_count_each_other(database, setup):
    with ThreadPoolExecutor(12) as pool:
        answers = list(pool.map(lambda _: guess_once(), range(60)))
    assert answers.count(401) <= 12 and set(answers) == {401, 429}


def guess_once():
    try:
        body = {"username": "engineer", "password": "guess"}
        return Client().post("/api/session", body, content_type=JSON).status_code
    finally:
        connection.close()


def test_the_ledger_tells_who_came_who_failed_and_who_was_kept_out(try_in):
    try_in("engineer", "demo-engineer")
    try_in("engineer", "guess")
    try_in("my secret, typed in the wrong field", "x")
    for _ in range(10):
        try_in("technician", "guess")
    try_in("technician", "guess")
    told = list(Entry.objects.order_by("pk").values_list("action", "actor__username"))
    assert told[-14:-11] == [
        ("Signed in from 127.0.0.1", "engineer"),
        ("Wrong password of engineer from 127.0.0.1", None),
        ("Wrong password of an unknown name from 127.0.0.1", None),
    ]
    assert told[-1][0] == "Kept out technician from 127.0.0.1: too many wrong passwords"


def test_a_password_of_the_older_kind_lets_in_once_more_and_is_kept_as_the_new_kind(
    try_in, settings
):
    settings.PASSWORD_HASHERS = PASSWORD_HASHERS
    person = User.objects.get(username="engineer")
    person.password = PBKDF2PasswordHasher().encode("demo-engineer", "salt" * 6, iterations=1000)
    person.save()
    for _ in range(2):
        assert try_in("engineer", "guess").status_code == 401
        assert try_in("engineer", "demo-engineer").status_code == 200
        person.refresh_from_db()
        assert person.password.startswith("scrypt$16384$")


@pytest.mark.parametrize(
    "body",
    [
        '{"username": "\\ud800", "password": "x"}',
        '{"username": "a\\u0000", "password": "x"}',
        '{"username": "x"}',
        '{"username": "x", "password": ""}',
        '{"username": 1, "password": "x"}',
    ],
)
def test_a_name_is_text(setup, body):
    answer = Client().post("/api/session", body, content_type=JSON)
    assert answer.status_code == 422
    assert answer.json()["field"] in ("username", "password")


@pytest.mark.parametrize(
    ("remote", "forwarded", "found"),
    [
        ("203.0.113.9", "10.0.0.1", "203.0.113.9"),  # no proxy of ours
        ("127.0.0.1", "", "127.0.0.1"),
        ("127.0.0.1", "198.51.100.7", "198.51.100.7"),
        ("127.0.0.1", "6.6.6.6, 198.51.100.7", "198.51.100.7"),  # what stands before is a claim
        ("127.0.0.1", "198.51.100.7, 10.9.9.9", "198.51.100.7"),  # two proxies of ours
        ("127.0.0.1", "x" * 500, "x" * 45),
    ],
)
def test_only_our_proxies_are_believed(settings, remote, forwarded, found):
    settings.PROXIES = {"127.0.0.1", "10.9.9.9"}
    more = {"HTTP_X_FORWARDED_FOR": forwarded} if forwarded else {}
    assert client_address(RequestFactory().get("/", REMOTE_ADDR=remote, **more)) == found


def test_tries_that_count_no_more_are_forgotten(try_in):
    try_in("engineer", "guess")
    later(301)
    try_in("technician", "guess")
    forget_what_has_expired()
    assert [t.username for t in PasswordTry.objects.all()] == ["technician"]
