"""Wrong passwords are limited by account and by address, whatever a client says of itself."""

from datetime import UTC, datetime, timedelta

import pytest
from axes.models import AccessAttempt
from django.contrib.auth.hashers import PBKDF2PasswordHasher
from django.test import Client, RequestFactory
from yoke_server.accounts.address import client_address
from yoke_server.accounts.models import User
from yoke_server.accounts.tasks import forget_what_has_expired
from yoke_server.config.settings import PASSWORD_HASHERS

JSON = "application/json"


@pytest.fixture
def try_in(setup):
    client = Client()

    def attempt(name, password, **more):
        body = {"username": name, "password": password}
        return client.post("/api/session", body, content_type=JSON, **more)

    return attempt


def test_sixty_wrong_passwords_are_limited_whatever_is_forwarded(try_in):
    answers = [
        try_in("engineer", "guess", HTTP_X_FORWARDED_FOR=f"10.0.0.{i}").status_code
        for i in range(60)
    ]
    assert answers == [401] * 9 + [429] * 51
    right = try_in("engineer", "demo-engineer")
    assert right.status_code == 429
    assert "five minutes" in right.json()["hint"]


def test_an_address_is_limited_whatever_the_name(try_in):
    answers = [try_in(f"person-{i}", "guess").status_code for i in range(12)]
    assert answers == [401] * 9 + [429] * 3
    elsewhere = try_in("technician", "demo-technician", REMOTE_ADDR="10.1.1.1")
    assert elsewhere.status_code == 200


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


def test_a_right_password_begins_the_count_anew(try_in):
    for _ in range(3):
        assert [try_in("engineer", "guess").status_code for _ in range(8)] == [401] * 8
        assert try_in("engineer", "demo-engineer").status_code == 200


@pytest.mark.parametrize(
    "body",
    ['{"username": "\\ud800", "password": "x"}', '{"username": "a\\u0000", "password": "x"}',
     '{"username": "x"}', '{"username": "x", "password": ""}', '{"username": 1, "password": "x"}'],
)  # fmt: skip
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


def test_yesterdays_tries_are_forgotten(try_in):
    try_in("engineer", "guess")
    try_in("technician", "guess")
    AccessAttempt.objects.filter(username="engineer").update(
        attempt_time=datetime.now(UTC) - timedelta(days=2)
    )
    forget_what_has_expired()
    assert [a.username for a in AccessAttempt.objects.all()] == ["technician"]
