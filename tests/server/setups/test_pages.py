"""Pages of panes: a person's own and the setup's, what takes them along, and what is refused."""

import pytest
from yoke_server.setups.models import Setup, SetupPages, SetupTemplate

pytestmark = pytest.mark.django_db
JSON = "application/json"


@pytest.fixture
def page(setup):
    force = {"key": setup.channels.get(name="F").key, "name": "F"}
    pane = {"pane": "strips", "channels": [force], "options": {"rolling_s": 30.0}, "share": 1.0}
    column = {"panes": [pane], "share": 2.0}
    return {"name": "Pull", "rows": [{"columns": [column], "share": 1.0}]}


def columns(page):
    return page["rows"][0]["columns"]


def put(client, setup, *pages, version=1, **more):
    body = {"version": version, "pages": list(pages), **more}
    return client.put(f"/api/setups/{setup.pk}/pages", body, JSON)


def seen(client, setup):
    return client.get(f"/api/setups/{setup.pk}/pages").json()


def test_each_sees_their_own_pages_and_all_see_the_setups(driving, as_role, setup, page):
    engineer = driving("engineer")
    assert seen(engineer, setup) == {"own": None, "everybody": None, "problem": ""}
    assert put(engineer, setup, page).json()["own"] == [page]
    reviewer = as_role("reviewer")
    assert seen(reviewer, setup)["own"] is None
    refused = put(reviewer, setup, page, for_everybody=True)
    assert refused.status_code == 403
    assert put(engineer, setup, page, for_everybody=True).json() == {
        "own": None, "everybody": [page], "problem": "",
    }  # fmt: skip
    assert seen(reviewer, setup)["everybody"] == [page]
    own = {**page, "name": "Mine"}
    assert put(reviewer, setup, own).json()["own"] == [own]
    assert reviewer.delete(f"/api/setups/{setup.pk}/pages").json()["own"] is None


def test_a_copy_and_a_template_take_the_setups_pages_along(driving, setup, page):
    client = driving("engineer")
    put(client, setup, page, for_everybody=True)
    put(client, setup, {**page, "name": "Mine"})

    def of(other):
        assert other.pk != setup.pk
        shown = seen(client, other)
        assert shown["own"] is None
        [found] = shown["everybody"]
        key = other.channels.get(name="F").key
        assert found["rows"][0]["columns"][0]["panes"][0]["channels"] == [
            {"key": key, "name": "F"}
        ], "its own channel of that name"

    assert client.post(f"/api/setups/{setup.pk}/duplicate", {}, JSON).status_code == 201
    of(Setup.objects.latest("pk"))
    client.post(f"/api/setups/{setup.pk}/template", {"name": "Pulls"}, JSON)
    template = SetupTemplate.objects.get(name="Pulls")
    body = {"template_id": template.pk, "bench_id": setup.bench_id, "name": "Again"}
    made = client.post(f"/api/projects/{setup.project_id}/setups/from-template", body, JSON)
    assert made.status_code == 201, made.content
    of(Setup.objects.get(name="Again"))


def test_what_a_newer_version_arranged_is_said_and_stays(driving, setup, page):
    client = driving("engineer")
    SetupPages.objects.create(setup=setup, document={"version": 2, "panels": {}})
    shown = seen(client, setup)
    assert (shown["everybody"], "newer version" in shown["problem"]) == (None, True)
    assert client.post(f"/api/setups/{setup.pk}/duplicate", {}, JSON).status_code == 201
    assert put(client, setup, page, version=2).status_code == 422
    assert SetupPages.objects.get(setup=setup, owner=None).document["version"] == 2


@pytest.mark.parametrize(
    ("change", "field"),
    [
        (lambda page: [page, {**page, "name": " pull"}], "pages"),
        (lambda page: [], "pages"),
        (lambda page: [{**page, "rows": [{"columns": []}]}], "pages"),
        (lambda page: [{**page, "rows": page["rows"] * 7}], "pages"),
        (lambda page: [{**page, "rows": [{"columns": columns(page) * 6}] * 3}], "pages"),
    ],
)  # fmt: skip
def test_pages_that_are_none_are_refused(driving, setup, page, change, field):
    answer = put(driving("engineer"), setup, *change(page))
    assert answer.status_code == 422
    assert answer.json()["field"].startswith(field)
    assert not SetupPages.objects.exists()


def test_no_pages_of_a_setup_that_is_not_there(driving):
    assert driving("engineer").get("/api/setups/99/pages").status_code == 404
