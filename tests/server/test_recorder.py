"""The recorder as a process against the real rig: pulls, kills, cut links, restarts."""

import contextlib
import json
import signal
import socket
import threading

import psycopg
import pytest
from django.db import connection
from django.test import Client
from yoke_server.accounts.models import User
from yoke_server.bench.drivers.scpi import ScpiLink
from yoke_server.bench.models import Command, CommandState
from yoke_server.config.notify import COMMAND
from yoke_server.record.models import OPEN_STATES, Run
from yoke_server.record.samples import read

from tests import processes
from tests.processes import wait_for

JSON = "application/json"
SPEED = 8.0

pytestmark = pytest.mark.django_db(transaction=True)


@pytest.fixture
def port(setup):
    return setup.bench.amplifiers.get().port


@pytest.fixture
def lab(database, setup, port):
    """A running rig and recorder; gives the recorder's process."""
    with processes.rig(port, SPEED), processes.recorder(database) as child:
        linked(setup)
        yield child


@pytest.fixture
def client(setup):
    found = Client()
    found.force_login(User.objects.get(username="technician"))
    found.post(f"/api/benches/{setup.bench_id}/yoke")
    return found


def linked(setup):
    wait_for(lambda: setup.bench.amplifiers.filter(link="linked").exists(), "the link")


def post(client, path, body=None):
    answer = client.post(path, body or {}, content_type=JSON)
    assert answer.status_code < 300, answer.content
    return answer.json()


def start(client, setup):
    return Run.objects.get(pk=post(client, f"/api/setups/{setup.pk}/runs")["id"])


def ended(run):
    wait_for(lambda: not Run.objects.filter(pk=run.pk, state__in=OPEN_STATES).exists(), "the end")
    run.refresh_from_db()
    return run


def newest(run):
    stream = run.streams.first()
    last = stream and stream.blocks.order_by("-sequence").first()
    return last.sequence if last else -1


def blocks_in(run, count):
    stream = wait_for(run.streams.first, "the stream")
    wait_for(lambda: stream.blocks.count() >= count, f"{count} blocks")


def test_a_pull_from_zero_to_results(lab, client, setup):
    channels = [c.pk for c in setup.channels.all()]
    zeroed = post(client, f"/api/setups/{setup.pk}/zero", {"channels": channels})
    assert [o["problem"] for o in zeroed] == ["", "", ""]
    checked = post(client, f"/api/setups/{setup.pk}/shunt-check", {"channels": channels})
    assert [o["problem"] for o in checked] == ["", "", ""]
    gauge = setup.channels.get(name="SG1")
    # 0.77 ohm of lead takes that share of the quarter bridge's shunt step.
    error = gauge.shunt_measured_mv_v / gauge.shunt_expected_mv_v - 1
    assert error == pytest.approx(-0.77 / 350, rel=0.05)
    run = ended(start(client, setup))
    assert (run.state, run.ended_because) == ("kept", "The force fell by 40 %")
    result = client.get(f"/api/runs/{run.pk}/tension").json()["result"]
    assert result["modulus"]["slope"] == pytest.approx(68.9e9, rel=0.02)
    assert result["proof"]["stress"] == pytest.approx(275e6, rel=0.02)
    assert result["strength"]["stress"] == pytest.approx(311e6, rel=0.02)
    assert result["elongation_after_break"] == pytest.approx(0.112, rel=0.03)
    assert result["notes"] == []


def test_killed_in_the_middle_the_run_goes_on_and_nothing_is_lost(database, setup, port, client):
    with processes.rig(port, SPEED):
        with processes.recorder(database) as first:
            linked(setup)
            run = start(client, setup)
            blocks_in(run, 40)
            first.send_signal(signal.SIGKILL)
            first.wait()
        committed = newest(run)
        with processes.recorder(database):
            run = ended(run)
    assert run.state == "kept"
    stream = run.streams.get()
    sequences = list(stream.blocks.order_by("sequence").values_list("sequence", flat=True))
    assert sequences[-1] > committed >= 40
    assert sequences == list(range(sequences[0], sequences[-1] + 1))
    assert stream.gaps == []
    force = read(stream, [0], 0, stream.samples)[0]
    assert force.size == stream.samples
    assert force.max() == pytest.approx(311e6 * 37.5e-6 / 25e3 * 2e-3, rel=0.03)


def test_an_order_is_carried_out_once_however_often_the_recorder_is_woken(lab, client, setup):
    ending = threading.Event()

    news = json.dumps({"bench": setup.bench_id})
    address = processes.environment(connection.settings_dict["NAME"])["DATABASE_URL"]

    def wake_up():
        with psycopg.connect(address, autocommit=True) as link:
            while not ending.wait(0.002):
                link.execute("SELECT pg_notify(%s, %s)", [COMMAND, news])

    thread = threading.Thread(target=wake_up)
    thread.start()
    try:
        channels = [c.pk for c in setup.channels.all()]
        post(client, f"/api/setups/{setup.pk}/zero", {"channels": channels})
        post(client, f"/api/setups/{setup.pk}/shunt-check", {"channels": channels})
        run = start(client, setup)
    finally:
        ending.set()
        thread.join()
    assert ended(run).state == "kept"
    assert not Command.objects.filter(state=CommandState.REFUSED).exists()


def test_every_database_connection_cut_in_the_middle_loses_nothing(lab, client, setup):
    run = start(client, setup)
    blocks_in(run, 30)
    with connection.cursor() as cursor:
        cursor.execute(
            "SELECT pg_terminate_backend(pid) FROM pg_stat_activity "
            "WHERE datname = current_database() AND pid <> pg_backend_pid()"
        )
        assert len(cursor.fetchall()) >= 3
    run = ended(run)
    stream = run.streams.get()
    assert (run.state, stream.gaps) == ("kept", [])
    assert stream.blocks.count() == newest(run) - stream.first_sequence + 1
    assert lab.poll() is None


def test_an_amplifier_that_began_anew_closes_the_run_as_interrupted(database, setup, port, client):
    with processes.recorder(database):
        with processes.rig(port, SPEED) as device:
            linked(setup)
            run = start(client, setup)
            blocks_in(run, 10)
            device.kill()
            device.wait()
        wait_for(lambda: setup.bench.amplifiers.filter(link="lost").exists(), "the loss")
        kept = newest(run)
        with processes.rig(port, SPEED):
            run = ended(run)
    assert run.state == "interrupted"
    assert "began anew" in run.ended_because
    assert newest(run) >= kept
    assert run.seal


def test_withheld_blocks_are_asked_for_and_filled_in(lab, client, setup, port):
    run = start(client, setup)
    blocks_in(run, 5)
    link = ScpiLink("127.0.0.1", port)
    link.connect()
    link.tell("TEST:WITHhold 7")
    run = ended(run)
    stream = run.streams.get()
    assert stream.gaps == []
    assert stream.blocks.count() == newest(run) - stream.first_sequence + 1


def test_stop_by_hand_keeps_the_run_and_stops_the_actuator(lab, client, setup):
    run = start(client, setup)
    blocks_in(run, 10)
    other = Client()
    other.force_login(User.objects.get(username="engineer"))
    refused = other.post(f"/api/runs/{run.pk}/stop")
    assert refused.status_code == 409
    assert "Technician holds the yoke" in refused.json()["title"]
    busy = client.patch(f"/api/setups/{setup.pk}", {"width_m": 0.01}, content_type=JSON)
    assert busy.status_code == 409
    assert "is being recorded" in busy.json()["title"]
    post(client, f"/api/runs/{run.pk}/stop")
    run = ended(run)
    assert (run.state, run.ended_because) == ("kept", "Stopped by hand")
    setup.bench.refresh_from_db()
    wait_for(lambda: bench_state(setup)["motion"] == "HOLD", "the actuator")
    assert client.get(f"/api/runs/{run.pk}/tension").status_code in (200, 422)


def bench_state(setup):
    setup.bench.refresh_from_db()
    return setup.bench.state


def test_emergency_stop_needs_no_yoke(lab, client, setup):
    run = start(client, setup)
    blocks_in(run, 5)
    other = Client()
    other.force_login(User.objects.get(username="engineer"))
    assert other.post(f"/api/benches/{setup.bench_id}/emergency-stop").status_code == 204
    assert ended(run).ended_because == "Emergency stop"


def test_an_emergency_stop_that_does_not_reach_the_actuator_is_told(database, setup, port, client):
    with processes.rig(port, SPEED) as device, processes.recorder(database):
        linked(setup)
        run = start(client, setup)
        blocks_in(run, 5)
        device.kill()
        device.wait()
        answer = client.post(f"/api/benches/{setup.bench_id}/emergency-stop")
        assert ended(run).ended_because == "Emergency stop"
    assert answer.status_code == 409
    assert "The device did not do it" in answer.json()["title"]


def test_without_a_device_the_person_is_told_where_it_was_sought(database, setup, port, client):
    with processes.recorder(database):
        wait_for(lambda: setup.bench.amplifiers.filter(link="lost").exists(), "the loss")
        answer = client.post(f"/api/setups/{setup.pk}/runs", {}, content_type=JSON)
    assert answer.status_code == 409
    assert f"nothing answers at 127.0.0.1:{port}" in answer.json()["title"]
    assert list(setup.runs.values_list("state", flat=True)) == ["failed"]


def test_a_device_that_talks_nonsense_is_named_so(database, setup, port, client):
    with socket.create_server(("127.0.0.1", port)) as server:
        threading.Thread(target=talk_nonsense, args=(server,), daemon=True).start()
        with processes.recorder(database):
            wait_for(lambda: setup.bench.amplifiers.filter(link="lost").exists(), "the verdict")
    note = setup.bench.amplifiers.get().link_note
    assert "does not identify itself" in note


def talk_nonsense(server):
    with contextlib.suppress(OSError):
        while True:
            peer, _ = server.accept()
            peer.sendall(b"SSH-2.0-hello\n" * 20)


def test_without_a_recorder_the_order_is_refused_in_words(setup, client, monkeypatch):
    monkeypatch.setattr("yoke_server.bench.services.time.sleep", lambda s: None)
    ticks = iter(range(0, 1000, 5))
    monkeypatch.setattr("yoke_server.bench.services.time.monotonic", lambda: next(ticks))
    answer = client.post(
        f"/api/setups/{setup.pk}/zero",
        {"channels": [setup.channels.first().pk]},
        content_type=JSON,
    )
    assert answer.status_code == 503
    assert answer.json()["title"] == "The recorder does not answer."
