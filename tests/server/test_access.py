"""Sign-in, roles, CSRF, the yoke: who may do what, and what strangers get."""

import pytest
from django.test import Client
from django.urls import get_resolver
from yoke_server.config.api import api

JSON = "application/json"


def paths():
    """Every operation of the API as (method, path)."""
    for path, operations in api.get_openapi_schema()["paths"].items():
        for method in operations:
            yield method, path.replace("{number}.png", "1.png").format_map(Ones())


class Ones(dict):
    def __missing__(self, key):
        return "1"


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("method", "path"), [p for p in paths() if p != ("post", "/api/session")], ids=str
)
def test_strangers_get_nothing(method, path):
    answer = getattr(Client(), method)(path)
    assert answer.status_code in (401, 403)
    assert answer["Content-Type"] in ("application/problem+json", "text/html; charset=utf-8")


CHANGES = [p for p in paths() if p[0] in ("post", "patch", "delete") and "session" not in p[1]]


@pytest.mark.parametrize(("method", "path"), CHANGES, ids=str)
def test_a_reviewer_changes_nothing(as_role, method, path):
    bodies = {
        "/channels": {"input_id": 1, "sensor_id": 1, "name": "x", "channels": [{"id": 1}]},
        "/zero": {"channels": [1]},
        "/shunt-check": {"channels": [1]},
        "/tare": {"channels": [1]},
        "/reset-peaks": {"channels": []},
        "/tension": {"offset": 0.001},
        "/devices/1": {"rate_hz": 100},
    }
    body = next((b for end, b in bodies.items() if path.endswith(end)), {})
    answer = getattr(as_role("reviewer"), method)(path, body, content_type=JSON)
    assert answer.status_code in (403, 404, 409), answer.content
    if answer.status_code == 403:
        assert "reviewer may not" in answer.json()["title"]


def test_sign_in_and_out(setup):
    client = Client(enforce_csrf_checks=True)
    client.get("/")
    token = {"headers": {"X-CSRFToken": client.cookies["csrftoken"].value}}
    wrong = {"username": "engineer", "password": "guess"}
    refused = client.post("/api/session", wrong, content_type=JSON, **token)
    assert refused.status_code == 401
    assert refused.json()["field"] == "password"
    assert "do not belong together" in refused.json()["title"]
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
    answer = client.post(f"/api/benches/{setup.bench_id}/yoke")
    assert answer.status_code == 403
    setup.bench.refresh_from_db()
    assert setup.bench.yoke_holder is None


def test_security_headers(client):
    answer = client.get("/")
    assert "default-src 'self'" in answer["Content-Security-Policy"]
    assert "frame-ancestors 'none'" in answer["Content-Security-Policy"]
    assert answer["X-Frame-Options"] == "DENY"
    assert answer["X-Content-Type-Options"] == "nosniff"


def test_nothing_else_is_served():
    patterns = [str(p.pattern) for p in get_resolver().url_patterns]
    assert patterns == ["api/", "^(?!api/|assets/).*$"]


def test_the_yoke_is_one_browsers(as_role, setup):
    url = f"/api/benches/{setup.bench_id}/yoke"
    first, second, technician = as_role("engineer"), as_role("engineer"), as_role("technician")
    assert first.post(url).json()["yoke_mine"] is True
    seen = second.get(f"/api/benches/{setup.bench_id}").json()
    assert (seen["yoke_mine"], seen["yoke_me_elsewhere"]) == (False, True)
    refused = technician.post(url)
    assert refused.status_code == 409
    assert "Engineer holds the yoke" in refused.json()["title"]
    assert second.delete(url).status_code == 409
    assert second.post(url).json()["yoke_mine"] is True
    assert first.get(f"/api/benches/{setup.bench_id}").json()["yoke_mine"] is False
    assert second.delete(url).json()["yoke_holder"] == ""
    assert technician.post(url).json()["yoke_mine"] is True
    assert first.post(f"{url}?from_holder=true").json()["yoke_mine"] is True


@pytest.mark.parametrize("deed", ["runs", "zero", "shunt-check"])
def test_orders_need_the_yoke(as_role, setup, deed):
    channel = setup.channels.first().pk
    answer = as_role("technician").post(
        f"/api/setups/{setup.pk}/{deed}", {"channels": [channel]}, content_type=JSON
    )
    assert answer.status_code == 409
    assert "Nobody holds the yoke" in answer.json()["title"]
    assert setup.runs.count() == 0
