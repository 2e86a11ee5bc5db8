"""The recorder as a process against the real rig: pulls, kills, cut links, restarts."""

import contextlib
import json
import re
import signal
import socket
import threading
import time
from contextlib import ExitStack

import numpy as np
import psycopg
import pytest
from django.db import connection, transaction
from django.test import Client
from yoke_server.accounts.models import User
from yoke_server.bench.drivers.scpi import ScpiLink
from yoke_server.bench.models import Bench, Order, OrderState
from yoke_server.bench.services import add_device, save_stand_ins
from yoke_server.common.db.notify import COMMAND
from yoke_server.derive.computing import derive_stale
from yoke_server.kinds.chain import chain_of
from yoke_server.record.models import OPEN_STATES, Run
from yoke_server.record.queries import document_of, length_of
from yoke_server.record.samples import read
from yoke_server.setups.freezing import freeze
from yoke_server.setups.models import Setup

from tests import processes
from tests.problems import code_of
from tests.processes import wait_for
from tests.server.lab import (
    SPEED,
    bench_state,
    cut_connections,
    linked,
    recorder,
    recorder_here,
)

JSON = "application/json"
SLOW = 1.0

# Together, and as a large group first: these wait for devices more than they compute, so they are
# best beside what computes, the browser's tests and the checks (launch/commands.py).
pytestmark = [pytest.mark.django_db(transaction=True), pytest.mark.xdist_group("recorder")]
FLAT = {"kind": "flat", "width_m": 12.5e-3, "thickness_m": 3e-3, "gauge_length_m": 50e-3}


@pytest.fixture
def own_rig(setup):
    """A rig that the test may kill or stall."""
    with processes.rig(SPEED) as found:
        save_stand_ins(found.ports)
        yield found


@pytest.fixture
def slow_rig(setup):
    """Slower, so that what it keeps (a minute of its own) outlasts a recorder's new start."""
    with processes.rig(SLOW) as found:
        save_stand_ins(found.ports)
        yield found


@pytest.fixture
def client(driving):
    return driving("technician")


def lost(setup, label="A1"):
    wait_for(lambda: setup.bench.devices.filter(label=label, link="lost").exists(), "the loss")


def post(client, path, body=None):
    answer = client.post(path, body or {}, content_type=JSON)
    assert answer.status_code < 300, answer.content
    return answer.json()


def asked_to_start(client, setup, body=None):
    version = Setup.objects.values_list("version", flat=True).get(pk=setup.pk)
    path, more = f"/api/setups/{setup.pk}/runs", body or {}
    return client.post(path, {"version": version, **more}, content_type=JSON)


def start(client, setup, body=None):
    """Given again where a busy computer lags behind the rig, so that clocks or settings wait."""
    for _ in range(5):
        answer = asked_to_start(client, setup, body)
        if not re.search(rb"not known yet|did not confirm", answer.content):
            break
    assert answer.status_code < 300, answer.content
    return Run.objects.get(pk=answer.json()["id"])


def ended(run):
    wait_for(lambda: not Run.objects.filter(pk=run.pk, state__in=OPEN_STATES).exists(), "the end")
    run.refresh_from_db()
    return run


def stream_of(run, device="A1"):
    return run.streams.get(device_label=device)


def recorded(run, seconds, **of):
    """Wait until so much of the run is in the database, of each device or of some."""
    for stream in run.streams.filter(**of):
        wanted = seconds * stream.rate_hz
        wait_for(
            lambda s=stream, n=wanted: length_of(s) >= n, f"{seconds} s of {stream.device_label}"
        )


def nothing_is_missing(run):
    for stream in run.streams.all():
        causes = [s.cause for s in stream.segments.all()]
        assert "gap" not in causes, (stream.device_label, causes)
        rows = list(stream.blocks.order_by("first_sample").values_list("first_sample", "samples"))
        assert [a for a, _ in rows[1:]] == [a + n for a, n in rows[:-1]]
        assert stream.samples == sum(rows[-1])
        assert not np.isnan(read(stream, [0], 0, stream.samples)).any()


def test_a_pull_from_zero_to_results(lab, client, setup):
    channels = [c.pk for c in setup.channels.all()]
    zeroed = post(client, f"/api/setups/{setup.pk}/zero", {"channels": channels})
    assert [o["problem"] for o in zeroed] == ["", "", "", ""]
    checked = post(client, f"/api/setups/{setup.pk}/shunt-check", {"channels": channels})
    assert [o["problem"] for o in checked] == ["", "", "", ""]
    gauge = freeze(setup).channels[2]
    # 0.77 ohm of lead, and where the shunt lies, are in what is expected.
    error = gauge.shunt_measured_mv_v / gauge.shunt_expected_mv_v - 1
    assert error == pytest.approx(0, abs=2e-4)
    run = ended(start(client, setup))
    assert (run.state, run.ended_because) == ("kept", "The force fell by 40 %")
    derive_stale(setup.pk)
    (state,) = client.get(f"/api/runs/{run.pk}/derivations").json()
    result = state["details"]
    assert result["modulus"]["slope"] == pytest.approx(68.9e9, rel=0.02)
    assert result["proof"]["stress"] == pytest.approx(275e6, rel=0.02)
    assert result["strength"]["stress"] == pytest.approx(311e6, rel=0.02)
    assert result["elongation_after_break"] == pytest.approx(0.112, rel=0.03)
    assert state["notes"] == []
    assert stream_of(run, "A2").samples == pytest.approx(stream_of(run).samples / 2, rel=0.02)
    wait_for(lambda: bench_state(setup)["motion"] == "HOLD", "the actuator")


def test_a_tare_is_taken_off_after_scaling(lab, client, setup):
    clip = setup.channels.get(name="e clip")
    tared = post(client, f"/api/setups/{setup.pk}/tare", {"channels": [clip.pk]})
    assert tared[0]["problem"] == ""
    frozen = freeze(setup).channels[1]
    assert frozen.zero is None
    assert float(chain_of(frozen).apply(2.1e-5)) == pytest.approx(0, abs=1e-6)
    assert frozen.tare == pytest.approx(2.1e-5 / 2e-3 * 10e-3, rel=0.02)


def test_a_channel_that_is_off_is_shown_and_checked_but_not_recorded(lab, client, setup):
    off = setup.channels.get(name="SG1")
    answer = client.patch(f"/api/channels/{off.pk}", {"recorded": False}, JSON)
    assert not [g for g in answer.json()["preflight"] if "SG1" in g["text"]]  # it needs no zero
    run = start(client, setup)
    recorded(run, 1)
    post(client, f"/api/runs/{run.pk}/stop")
    run = ended(run)
    keys = {c.channel_key for s in run.streams.all() for c in s.channels.all()}
    assert keys == {c.key for c in setup.channels.exclude(pk=off.pk)}
    assert [c.name for c in document_of(run).channels] == ["F", "e clip", "SG2"]
    nothing_is_missing(run)


def test_killed_in_the_middle_the_run_goes_on_and_what_moved_stands(
    database, setup, slow_rig, client, told
):
    rig = slow_rig
    with recorder(database, speed=SLOW) as first:
        linked(setup)
        run = start(client, setup)
        recorded(run, 10)
        assert rig.ask("Load frame", "MOT:STAT?").startswith("RAMP")
        first.send_signal(signal.SIGKILL)
        first.wait()
    committed = length_of(stream_of(run))
    wait_for(lambda: rig.ask("Load frame", "MOT:STAT?").startswith("HOLD"), "the frame to hold", 2)
    with recorder(database, speed=SLOW):
        recorded(run, committed / 1000 + 10)
        assert rig.ask("Load frame", "MOT:STAT?").startswith("HOLD")
        post(client, f"/api/runs/{run.pk}/stop")
        run = ended(run)
    assert (run.state, run.ended_because) == ("kept", "Stopped by hand")
    nothing_is_missing(run)
    told(run)


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
    # The start alone may have waited for clocks, and was given again.
    assert set(Order.objects.filter(state=OrderState.REFUSED).values_list("kind")) <= {("start",)}
    assert Run.objects.count() == 1


def test_every_database_connection_cut_in_the_middle_loses_nothing(
    database, rig, client, setup, told
):
    with recorder(database) as child:
        linked(setup)
        run = start(client, setup)
        recorded(run, 10)
        assert cut_connections() >= 3
        run = ended(run)
        assert run.state == "kept"
        nothing_is_missing(run)
        told(run)
        assert child.poll() is None


def test_a_database_that_stalls_costs_only_queue(lab, client, setup, told):
    run = start(client, setup)
    recorded(run, 5)
    before = frames_so_far()
    with connection.cursor() as cursor, transaction.atomic():
        cursor.execute("LOCK TABLE record_block IN ACCESS EXCLUSIVE MODE")
        time.sleep(5)
        assert frames_so_far() - before > 5 * 10 * SPEED  # the live picture goes on
        assert bench_state(setup)["backlog_s"] > 3
    nothing_is_missing(run := ended(run))
    told(run)


def frames_so_far():
    with connection.cursor() as cursor:
        cursor.execute("SELECT coalesce(max(seq), 0) FROM bench_liveframe")
        return cursor.fetchone()[0]


def test_an_amplifier_that_began_anew_stops_the_pull_and_closes_the_run(
    lab, client, setup, rig, told
):
    run = start(client, setup)
    recorded(run, 5)
    rig.tell("A1", "TEST:RESTart")
    run = ended(run)
    assert run.state == "interrupted"
    assert "A1 began anew" in run.ended_because
    assert rig.ask("Load frame", "MOT:STAT?").startswith("HOLD")
    assert run.seal
    told(run)
    # The next run has its settings again, although the amplifier forgot them.
    assert client.post(f"/api/benches/{setup.bench_id}/return").status_code == 204
    linked(setup)
    again = asked_to_start(client, setup, {"pull": False}).json()
    assert rig.ask("A1", "INP3:RANG?;:INP3:BRID?") == "40;QUARTER"
    post(client, f"/api/runs/{again['id']}/stop")


def test_withheld_blocks_are_asked_for_and_filled_in(lab, client, setup, rig, told):
    run = start(client, setup, {"pull": False})
    recorded(run, 5)
    rig.tell("A1", "TEST:WITHhold 40")
    recorded(run, 30)
    post(client, f"/api/runs/{run.pk}/stop")
    nothing_is_missing(run := ended(run))
    told(run)


def test_one_pull_through_kills_stalls_and_a_pulled_cable(database, setup, client, told):
    """Recorder, web, database, rig and one amplifier's cable, all in one pull: nothing lost."""
    speed = 1.0
    with ExitStack() as stack:
        rig = stack.enter_context(processes.rig(speed))
        cable = processes.Cable(rig.ports["A2"])
        save_stand_ins({**rig.ports, "A2": cable.port})
        served = stack.enter_context(ExitStack())
        served.enter_context(processes.web(database))
        first = stack.enter_context(processes.recorder(database, speed=speed))
        linked(setup)
        run = start(client, setup)
        recorded(run, 2)
        cable.pull()
        served.close()  # the web is gone; the recording goes on
        recorded(run, 4, device_label="A1")
        rig.child.send_signal(signal.SIGSTOP)
        time.sleep(6)
        rig.child.send_signal(signal.SIGCONT)
        wait_for(lambda: bench_state(setup).get("motion") == "HOLD", "the pull to stop")
        recorded(run, 6, device_label="A1")
        first.send_signal(signal.SIGKILL)
        first.wait()
        with processes.recorder(database, speed=speed):
            time.sleep(6)
            cable.plug_in()
            cut_connections()
            wait_for(
                lambda: length_of(stream_of(run, "A2")) >= 0.49 * length_of(stream_of(run)),
                "what A2 kept",
                40,
            )
            post(client, f"/api/runs/{run.pk}/stop")
            run = ended(run)
    assert run.state == "kept"
    nothing_is_missing(run)
    told(run)


def test_two_recorders_share_two_benches_and_one_takes_over(
    database, setup, slow_rig, client, told
):
    speed = SLOW
    other = Bench.objects.create(name="Second bench")
    add_device(other, "A9", "bridge amplifier", host="127.0.0.1", port=1)
    with ExitStack() as stack:
        first = stack.enter_context(recorder(database, "--bench", "Shed bench", speed=speed))
        linked(setup)
        stack.enter_context(recorder(database, "--bench", "Second bench", speed=speed))
        wait_for(lambda: other.devices.filter(link="lost").exists(), "the second bench")
        third = stack.enter_context(recorder(database, speed=speed))
        run = start(client, setup)
        recorded(run, 8)
        assert third.poll() is None
        first.send_signal(signal.SIGKILL)
        first.wait()
        before = length_of(stream_of(run))
        recorded(run, before / 1000 + 16)  # the third serves both now
        post(client, f"/api/runs/{run.pk}/stop")
        nothing_is_missing(run := ended(run))
        told(run)


def test_a_device_that_another_host_controls_is_named(database, setup, rig, client):
    holder = ScpiLink("127.0.0.1", rig.ports["A1"])
    holder.connect()
    holder.take_control("the other computer")
    with recorder_here():
        listening = setup.bench.devices.filter(label="A1", link="listening")

        def refused():
            holder.take_control("the other computer")  # which it loses by silence
            return listening.exists()

        wait_for(refused, "the refusal")
        assert "the other computer controls it" in listening.get().link_note
        url = f"/api/setups/{setup.pk}/runs"
        answer = client.post(url, {"pull": False, "version": setup.version}, content_type=JSON)
        assert answer.status_code == 409
        assert "the other computer controls it" in answer.json()["title"]
        holder.close()
        linked(setup)


def test_the_rig_moves_to_other_ports_and_the_recorder_follows(database, setup, tmp_path):
    file = tmp_path / "rig.json"
    with recorder(database, "--stand-ins", str(file)):
        for _ in range(2):
            with processes.rig(SPEED) as found:
                file.write_text(json.dumps(found.ports))
                linked(setup)
                assert bench_state(setup)["linked"]
            lost(setup)


def test_stop_by_hand_keeps_the_run_and_stops_the_actuator(lab, client, setup):
    run = start(client, setup)
    recorded(run, 5)
    other = Client()
    other.force_login(User.objects.get(username="engineer"))
    refused = other.post(f"/api/runs/{run.pk}/stop")
    assert refused.status_code == 409
    assert code_of(refused) == "yoke-needed"
    again = asked_to_start(client, setup)
    assert code_of(again) == "being-recorded"
    busy = client.patch(
        f"/api/setups/{setup.pk}", {"piece": FLAT | {"width_m": 0.01}}, content_type=JSON
    )
    assert busy.status_code == 409
    assert code_of(busy) == "being-recorded"
    post(client, f"/api/runs/{run.pk}/stop")
    run = ended(run)
    assert (run.state, run.ended_because) == ("kept", "Stopped by hand")
    wait_for(lambda: bench_state(setup)["motion"] == "HOLD", "the actuator")
    away = asked_to_start(client, setup)
    assert (away.status_code, away.json()["field"]) == (409, "actuator_not_home")


def test_emergency_stop_needs_no_yoke(lab, client, setup):
    run = start(client, setup)
    recorded(run, 3)
    other = Client()
    other.force_login(User.objects.get(username="engineer"))
    assert other.post(f"/api/benches/{setup.bench_id}/emergency-stop").status_code == 204
    assert ended(run).ended_because == "Emergency stop"


def test_an_emergency_stop_that_does_not_reach_the_actuator_is_told(
    database, setup, own_rig, client
):
    with recorder_here():
        linked(setup)
        run = start(client, setup)
        wait_for(lambda: bench_state(setup)["motion"] == "RAMP", "the pull")
        own_rig.child.kill()
        own_rig.child.wait()
        answer = client.post(f"/api/benches/{setup.bench_id}/emergency-stop")
        assert ended(run).ended_because == "Emergency stop"
    assert answer.status_code == 409
    assert code_of(answer) == "stop-not-confirmed"


def test_without_a_device_the_person_is_told_where_it_was_sought(database, setup, client):
    with recorder_here():
        lost(setup)
        answer = asked_to_start(client, setup)
    assert answer.status_code == 409
    assert "nothing answers at 127.0.0.1:1." in answer.json()["title"]
    assert not setup.runs.exists()


def test_a_device_that_talks_nonsense_is_named_so(database, setup, client):
    with socket.create_server(("127.0.0.1", 0)) as server:
        save_stand_ins({"A1": server.getsockname()[1]})
        threading.Thread(target=talk_nonsense, args=(server,), daemon=True).start()
        with recorder_here():
            lost(setup)
    note = setup.bench.devices.get(label="A1").link_note
    assert "does not identify itself" in note


def talk_nonsense(server):
    with contextlib.suppress(OSError):
        while True:
            peer, _ = server.accept()
            peer.sendall(b"SSH-2.0-hello\n" * 20)


def test_without_a_recorder_the_order_is_refused_in_words(setup, client, settings):
    settings.MEASURE_SECONDS = 0.1
    answer = client.post(
        f"/api/setups/{setup.pk}/zero",
        {"channels": [setup.channels.first().pk]},
        content_type=JSON,
    )
    assert answer.status_code == 503
    assert code_of(answer) == "recorder-silent"
