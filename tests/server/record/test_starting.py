"""What is told, asked and accepted before a run begins, and the batch that it belongs to."""

import pytest
from yoke_server.bench.models import Device, Order
from yoke_server.bench.services import take_yoke
from yoke_server.kinds.guards.base import GuardAction
from yoke_server.kinds.guards.outside import Outside
from yoke_server.kinds.motions.no_motion import NoMotion
from yoke_server.record.models import Run
from yoke_server.record.preflight import preflight_issues
from yoke_server.record.services import order_run
from yoke_server.setups.services import keep_revision

from tests.problems import code_of
from tests.recorded import begin

pytestmark = pytest.mark.django_db
JSON = "application/json"


@pytest.fixture
def ready(setup, engineer):
    """A setup of which only warnings are open."""
    Device.objects.update(link="linked")
    setup.motion = NoMotion()
    setup.save()
    keep_revision(engineer, setup, "No motion")
    return setup


def codes(setup):
    return [issue.code for issue in preflight_issues(setup)]


def change(client, setup, **body):
    answer = client.patch(f"/api/setups/{setup.pk}", body, JSON)
    setup.refresh_from_db()
    return answer


def test_what_was_set_since_the_last_run_is_told_and_the_next_specimen_is_not(ready, driving):
    client = driving("engineer")
    begin(ready, 1, state="kept")
    assert "changed_since" not in codes(ready)
    change(client, ready, specimen="C7")
    assert "changed_since" not in codes(ready)
    change(client, ready, run_name_pattern="{specimen} no {number}")
    (issue,) = [i for i in preflight_issues(ready) if i.code == "changed_since"]
    assert issue.text == "A setting was changed since C1 run 1."
    assert not issue.blocks


def test_a_name_that_is_taken_is_told(ready, driving):
    client = driving("engineer")
    change(client, ready, run_name_pattern="{specimen} pull")
    assert "name_used" not in codes(ready)
    run = begin(ready, 1, state="kept")
    Run.objects.filter(pk=run.pk).update(name=f"{ready.specimen} pull")
    assert "name_used" in codes(ready)


def test_a_guard_that_unloads_needs_a_programme(ready):
    force = ready.channels.get(name="F")
    ready.guards = [Outside(channel=force.key, highest=1.0, action=GuardAction.UNLOAD)]
    assert "no_gentle_end" in codes(ready)


def start(actor, setup, **more):
    take_yoke(actor, setup.bench_id)
    order_run(actor, setup.pk, version=setup.version, **more)
    return Order.objects.latest("requested_at").arguments


def test_what_is_accepted_goes_with_the_start(ready, engineer):
    issues = [i for i in preflight_issues(ready) if not i.blocks]
    assert issues
    spec = start(engineer, ready, accepted=[i.code for i in issues])
    assert spec["accepted"] == [i.text for i in issues]


def test_what_was_not_shown_is_not_accepted(ready, driving):
    client = driving("engineer")
    body = {"version": ready.version, "accepted": [], "answers": {}}
    answer = client.post(f"/api/setups/{ready.pk}/runs", body, JSON)
    assert (answer.status_code, code_of(answer)) == (409, "preflight")
    assert not Order.objects.exists()


def test_what_is_asked_for_must_be_answered(ready, driving, engineer):
    client = driving("engineer")
    assert change(client, ready, asked=["Humidity", "Batch of rivets"]).status_code == 200
    body = {"version": ready.version, "answers": {"Humidity": "45 %", "Batch of rivets": " "}}
    answer = client.post(f"/api/setups/{ready.pk}/runs", body, JSON)
    assert answer.status_code == 422
    assert answer.json()["title"] == "Batch of rivets is asked for at the start."
    spec = start(engineer, ready, answers={"Humidity": "45 %", "Batch of rivets": "7", "x": "y"})
    assert spec["answers"] == {"Humidity": "45 %", "Batch of rivets": "7"}


def test_a_dry_run_asks_nothing(ready, driving, engineer):
    change(driving("engineer"), ready, asked=["Humidity"])
    assert start(engineer, ready, is_dry=True)["answers"] == {}


def test_the_next_specimen_is_the_next_of_the_batch(ready, driving):
    client = driving("engineer")
    assert change(client, ready, batch=["C1", "B7", "A3"], specimen="C1").status_code == 200
    begin(ready, 1, state="kept")
    page = client.get(f"/api/setups/{ready.pk}").json()
    assert page["next_specimen"] == "B7"
    assert [(b["specimen"], b["is_done"]) for b in page["batch"]] == [
        ("C1", True),
        ("B7", False),
        ("A3", False),
    ]


@pytest.mark.parametrize("field", ["batch", "asked"])
def test_a_name_stands_once_in_a_list(ready, driving, field):
    answer = change(driving("engineer"), ready, **{field: ["A", "a "]})
    assert answer.status_code == 422
    assert "more than once" in answer.json()["title"] + answer.json().get("detail", "")
