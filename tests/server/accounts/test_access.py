"""Sign-in, roles, CSRF, the yoke: who may do what, and what strangers get."""

import pytest
from django.test import Client
from django.urls import get_resolver
from yoke_server.ledger.models import Entry

from tests.problems import code_of

JSON = "application/json"


def test_sign_in_and_out(setup):
    client = Client(enforce_csrf_checks=True)
    client.get("/")
    token = {"headers": {"X-CSRFToken": client.cookies["csrftoken"].value}}
    wrong = {"username": "engineer", "password": "guess"}
    refused = client.post("/api/session", wrong, content_type=JSON, **token)
    assert refused.status_code == 401
    assert refused.json()["field"] == "password"
    assert code_of(refused) == "not-signed-in"
    right = {"username": "engineer", "password": "demo-engineer"}
    assert client.post("/api/session", right, content_type=JSON).status_code == 403
    answer = client.post("/api/session", right, content_type=JSON, **token)
    assert answer.json()["role"] == "engineer"
    assert client.get("/api/projects").status_code == 200
    token["headers"]["X-CSRFToken"] = client.cookies["csrftoken"].value
    assert client.delete("/api/session", **token).status_code == 204
    assert client.get("/api/projects").status_code == 401


def test_a_change_needs_the_token(setup):
    from yoke_server.accounts.models import User

    client = Client(enforce_csrf_checks=True)
    client.force_login(User.objects.get(username="engineer"))
    answer = client.post(f"/api/benches/{setup.bench_id}/yoke", content_type="application/json")
    assert answer.status_code == 403
    setup.bench.refresh_from_db()
    assert setup.bench.yoke_holder is None


def test_nothing_else_is_served():
    patterns = [str(p.pattern) for p in get_resolver().url_patterns]
    assert patterns == ["api/", "problems/<slug:code>", "^(?!api/|assets/).*$"]


def test_the_yoke_is_one_browsers(as_role, setup):
    url = f"/api/benches/{setup.bench_id}/yoke"
    first, second, technician = as_role("engineer"), as_role("engineer"), as_role("technician")
    assert take(first, url).json()["yoke_mine"] is True
    seen = second.get(f"/api/benches/{setup.bench_id}").json()
    assert (seen["yoke_mine"], seen["yoke_me_elsewhere"]) == (False, True)
    refused = take(technician, url)
    assert refused.status_code == 409
    assert code_of(refused) == "yoke-needed"
    assert second.delete(url).status_code == 409
    assert take(second, url).json()["yoke_mine"] is True
    assert first.get(f"/api/benches/{setup.bench_id}").json()["yoke_mine"] is False
    assert second.delete(url).json()["yoke_holder"] == ""
    assert take(technician, url).json()["yoke_mine"] is True
    assert take(first, url).status_code == 409  # not without a reason
    assert take(technician, url, reason="mine").json()["yoke_mine"] is True
    assert take(first, url, reason="shift is over").json()["yoke_mine"] is True
    assert "shift is over" in Entry.objects.last().action
    assert take(technician, url, reason="not an engineer").status_code == 409


def take(client, url, **body):
    return client.post(url, body, content_type=JSON)


@pytest.mark.parametrize("action", ["runs", "zero", "shunt-check"])
def test_orders_need_the_yoke(as_role, setup, action):
    body = (
        {"version": setup.version}
        if action == "runs"
        else {"channels": [setup.channels.first().pk]}
    )
    url = f"/api/setups/{setup.pk}/{action}"
    answer = as_role("technician").post(url, body, content_type=JSON)
    assert answer.status_code == 409
    assert code_of(answer) == "yoke-needed"
    assert setup.runs.count() == 0
