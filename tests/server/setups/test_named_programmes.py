"""Programmes kept under a name, for other setups; force histories from files."""

import pytest
from yoke_server.kinds.legs.force import ForceLeg
from yoke_server.kinds.legs.settle import SettleLeg
from yoke_server.kinds.motions.no_motion import NoMotion
from yoke_server.kinds.motions.programme import Programme
from yoke_server.setups.models import Channel, Setup

from tests.problems import code_of

pytestmark = pytest.mark.django_db
JSON = "application/json"


@pytest.fixture
def client(driving):
    return driving("engineer")


@pytest.fixture
def force(setup):
    channel = setup.channels.get(name="F")
    settle = SettleLeg(channel=channel.key, within=5.0)
    setup.motion = Programme(legs=[ForceLeg(force_n=1000.0, rate_n_s=100.0), settle])
    setup.save()
    return channel


def keep(client, setup, name="Warm up"):
    return client.post(f"/api/setups/{setup.pk}/programmes", {"name": name}, JSON)


def use(client, setup, programme):
    return client.post(f"/api/setups/{setup.pk}/programme", {"programme_id": programme}, JSON)


def test_a_kept_programme_is_used_by_another_setup_with_its_own_channels(client, setup, force):
    kept = keep(client, setup).json()
    assert [(p["name"], p["legs"], p["channels"]) for p in kept] == [("Warm up", 2, ["F"])]
    answer = client.post(f"/api/setups/{setup.pk}/duplicate", {}, JSON)
    assert answer.status_code == 201, answer.content
    other = Setup.objects.exclude(pk=setup.pk).get(project=setup.project)
    assert other.motion.legs[1].channel == other.channels.get(name="F").key, "as a copy has it"
    other.motion = NoMotion()
    other.save()
    answer = use(client, other, kept[0]["id"])
    assert answer.status_code == 200, answer.content
    other.refresh_from_db()
    assert other.motion.legs[0] == ForceLeg(force_n=1000.0, rate_n_s=100.0)
    assert other.motion.legs[1].channel == other.channels.get(name="F").key != force.key


def test_one_of_the_same_name_is_replaced_and_one_can_be_taken_away(client, setup, force):
    first = keep(client, setup).json()
    setup.motion = Programme(legs=setup.motion.legs[:1])
    setup.save()
    again = keep(client, setup).json()
    assert [(p["id"], p["legs"]) for p in again] == [(first[0]["id"], 1)]
    assert client.delete(f"/api/programmes/{first[0]['id']}").status_code == 204
    assert client.get("/api/programmes").json() == []


def test_a_channel_that_is_not_there_is_named(client, setup, force):
    kept = keep(client, setup).json()
    Channel.objects.filter(pk=force.pk).update(name="Load")
    answer = use(client, setup, kept[0]["id"])
    assert (answer.status_code, code_of(answer)) == (409, "conflict")
    assert "looks at a channel F" in answer.json()["title"]


def test_what_is_no_programme_is_not_kept(client, setup):
    setup.motion = NoMotion()
    setup.save()
    answer = keep(client, setup)
    assert (answer.status_code, code_of(answer)) == (409, "nothing-to-do")


def test_a_file_of_forces_is_read_and_its_faults_are_named(client):
    text = "time (s); force (kN)\n0,0; 0\n0,5; 1,2\n1,0; 0,4"
    answer = client.post("/api/force-histories", {"text": text}, JSON)
    assert answer.json() == {"forces_n": [0.0, 1200.0, 400.0], "rate_hz": 2.0}
    answer = client.post("/api/force-histories", {"text": text + "\n4,0; 0"}, JSON)
    assert answer.status_code == 422
    assert "A gap at line 5" in answer.json()["title"]
