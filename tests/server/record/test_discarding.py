"""Discarded runs: out of all lists, restored as they were, deleted after thirty days."""

from datetime import UTC, datetime, timedelta

import pytest
from yoke_server.ledger.models import Entry
from yoke_server.record.discarding import KEPT_DAYS, delete_discarded_runs
from yoke_server.record.models import Block, Run
from yoke_server.record.runs import DRY_NUMBERS, next_number
from yoke_server.report.services import write_report

from tests.problems import code_of
from tests.recorded import begin

pytestmark = pytest.mark.django_db
JSON = "application/json"
REASON = {"reason": "The grips slipped"}


def names(client, setup, **query):
    answer = client.get(f"/api/setups/{setup.pk}/runs", query)
    return [run["name"] for run in answer.json()["items"]]


def test_a_discarded_run_is_out_of_all_lists_and_comes_back(setup, as_role):
    client = as_role("technician")
    run = begin(setup, 1, state="kept")
    kept = run.name
    assert client.post(f"/api/runs/{run.pk}/discard", REASON, JSON).status_code == 204
    assert names(client, setup) == []
    page = client.get(f"/api/setups/{setup.pk}").json()
    assert page["runs"] == 0
    assert "2" in page["next_run_name"], "its number is not given again"
    assert next_number(setup) == 2
    (found,) = client.get(f"/api/setups/{setup.pk}/runs?discarded=true").json()["items"]
    assert (found["name"], found["discarded_because"]) == (kept, REASON["reason"])
    assert client.post(f"/api/runs/{run.pk}/restore").status_code == 204
    assert names(client, setup) == [kept]
    assert names(client, setup, discarded="true") == []
    said = set(Entry.objects.values_list("action", flat=True))
    assert {f"Discarded {kept}: The grips slipped", f"Restored {kept}"} <= said


def test_a_run_that_is_recorded_or_reported_stays(setup, as_role, engineer):
    client = as_role("engineer")
    open_one = begin(setup, 1)
    answer = client.post(f"/api/runs/{open_one.pk}/discard", REASON, JSON)
    assert (answer.status_code, code_of(answer)) == (409, "being-recorded")
    open_one.state = "kept"
    open_one.save()
    report = write_report(engineer, open_one.pk)
    answer = client.post(f"/api/runs/{open_one.pk}/discard", REASON, JSON)
    assert (answer.status_code, code_of(answer)) == (409, "in-use")
    assert report.number in answer.json()["title"]
    assert names(client, setup) == [open_one.name]


def test_it_is_deleted_with_its_samples_after_thirty_days(setup):
    young, old, dry = (begin(setup, n, state="kept") for n in (1, 2, DRY_NUMBERS + 1))
    now = datetime.now(UTC)
    young.discarded_at = now - timedelta(days=KEPT_DAYS - 1)
    old.discarded_at = now - timedelta(days=KEPT_DAYS + 1)
    dry.discarded_at, dry.is_dry = now, True
    for run in (young, old, dry):
        run.save()
    delete_discarded_runs()
    assert list(Run.everything.values_list("pk", flat=True)) == [young.pk]
    assert not Block.objects.exclude(stream__run=young).exists()


@pytest.mark.parametrize("role", ["reviewer"])
def test_who_only_watches_discards_nothing(setup, as_role, role):
    run = begin(setup, 1, state="kept")
    answer = as_role(role).post(f"/api/runs/{run.pk}/discard", REASON, JSON)
    assert answer.status_code == 403
    assert as_role(role).post(f"/api/runs/{run.pk}/restore").status_code == 403


def test_no_reason_is_none(setup, as_role):
    run = begin(setup, 1, state="kept")
    answer = as_role("engineer").post(f"/api/runs/{run.pk}/discard", {"reason": ""}, JSON)
    assert answer.status_code == 422
    run.refresh_from_db()
    assert run.discarded_at is None
