"""A run that starts zeroes the channels that ask for it, and begins with none that is loaded."""

import pytest
from yoke_server.record.models import Run
from yoke_server.setups.models import Balance, Setup

from tests.processes import wait_for

pytestmark = pytest.mark.django_db(transaction=True)
JSON = "application/json"


def start(client, setup):
    version = Setup.objects.get(pk=setup.pk).version
    return client.post(f"/api/setups/{setup.pk}/runs", {"version": version, "pull": False}, JSON)


def stop(client, answer):
    run = Run.objects.get(pk=answer.json()["id"])
    assert client.post(f"/api/runs/{run.pk}/stop").status_code == 200
    wait_for(lambda: Run.objects.exclude(state="recording").filter(pk=run.pk), "the run's end")


def test_each_run_begins_with_a_new_zero_unless_something_is_loaded(lab, setup, driving):
    client, force = driving("engineer"), setup.channels.get(name="F")
    asked = {"zero_each_run": True, "zero_by_itself": True}
    assert client.patch(f"/api/channels/{force.pk}", asked, JSON).status_code == 200
    answer = client.post(f"/api/setups/{setup.pk}/zero", {"channels": [force.pk]}, JSON)
    assert [o["problem"] for o in answer.json()] == [""]
    zeros = Balance.objects.filter(channel_key=force.key, zero__isnull=False)
    stop(client, start(client, setup))
    assert zeros.count() == 1  # it was fresh
    stop(client, start(client, setup))
    assert zeros.count() == 2
    zeros.order_by("pk").last().delete()
    zeros.update(zero=1.5e-3)  # 7.5 kN away
    refused = start(client, setup)
    assert (refused.status_code, refused.json()["field"]) == (409, "zero_again")
    assert "something may be loaded" in refused.json()["title"]
    assert zeros.count() == 1
    assert setup.runs.count() == 2
