"""Devices found, tried, added by address or as text; other makes linked and measured with."""

import socket
import threading
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager

import pytest
from django.db import connection
from django.test import Client
from yoke_server.accounts.models import User
from yoke_server.bench.models import Device, Link
from yoke_server.kinds.inputs.digital import DigitalOutput
from yoke_server.sensors.models import Sensor

from tests import processes, recorded
from tests.problems import code_of
from tests.processes import wait_for
from tests.server.lab import recorder_here

JSON = "application/json"


def as_engineer():
    client = Client()
    client.force_login(User.objects.get(username="engineer"))
    return client


def post(client, path, body=None, code=200):
    answer = client.post(path, body or {}, content_type=JSON)
    assert answer.status_code == code, answer.content
    return answer.json()


@contextmanager
def answering(reply):
    """A port of this computer at which ``reply(connection)`` talks to whoever comes."""
    with socket.create_server(("127.0.0.1", 0)) as server:

        def serve():
            while True:
                try:
                    link, _ = server.accept()
                except OSError:
                    return
                threading.Thread(target=reply, args=(link,), daemon=True).start()

        threading.Thread(target=serve, daemon=True).start()
        yield server.getsockname()[1]


def dribble(link):
    """One byte now and then, and never a line: what a broken device may do for ever."""
    with link:
        try:
            while True:
                link.sendall(b"x")
                threading.Event().wait(0.3)
        except OSError:
            pass


@pytest.mark.django_db(transaction=True)
def test_a_bench_from_nothing_with_what_is_found_on_the_network(database, setup):
    """A fresh bench: its recorder finds the stand-ins, an address is tried, devices are added."""
    client = as_engineer()
    bench = post(client, "/api/benches", {"name": "Mixed makes"}, 201)
    path = f"/api/benches/{bench['id']}"
    with processes.rig(1.0, 7, "shed", "--discoverable") as rig, recorder_here(1.0):
        ours = set(rig.ports.values())

        def find():
            answer = client.post(f"{path}/find", {}, content_type=JSON)
            found = answer.json().get("devices", []) if answer.status_code == 200 else []
            mine = {f["serial"]: f for f in found if f["port"] in ours}
            return mine if len(mine) >= len(ours) else None

        found = wait_for(find, "the devices to be announced", 60)
        assert {s: f["driver"] for s, f in found.items()} == {
            "20417": "bridge amplifier",
            "20588": "bridge amplifier",
            "30114": "measuring module",
            "1187": "load frame",
            "41022": "weighing indicator",
            "30212": "pulse module",
            "40231": "line gauge",
        }
        for label, serial in (("W1", "41022"), ("S1", "40231")):
            address = {k: found[serial][k] for k in ("driver", "host", "port")}
            tried = post(client, f"{path}/try", address)
            assert tried["serial"] == serial
            assert abs(tried["readings"][0]["value"]) < 5
            answer = client.put(f"{path}/devices", {"label": label, **address}, JSON)
            assert answer.status_code == 200, answer.content
        frame = {k: found["1187"][k] for k in ("driver", "host", "port")}
        assert post(client, f"{path}/try", frame)["stands"] == "hold at 0.00 mm"
        devices = Device.objects.filter(bench_id=bench["id"])
        wait_for(lambda: devices.filter(link=Link.LINKED).count() == 2, "both to be linked", 30)
        assert devices.get(label="W1").serial == "41022"
        again = wait_for(find, "them to be found again", 60)
        assert (again["41022"]["on"], again["41022"]["label"]) == ("Mixed makes", "W1")
        assert not again["41022"]["moved"]
        _measure_with_both(client, bench["id"])


def _measure_with_both(client, bench_id):
    """Both are wired, put on the bench, and keep on being linked at their own rates."""
    project = post(client, "/api/projects", {"name": "Weighing"}, 201)
    body = {"kind": "measuring", "bench_id": bench_id, "name": "Mixed"}
    setup = post(client, f"/api/projects/{project['id']}/setups", body, 201)["setups"][-1]
    for label, quantity, factor in (("W1", "force", 1.0), ("S1", "displacement", 1e-3)):
        sensor = Sensor.objects.create(
            kind="load cell",
            name=label,
            serial=f"own {label}",
            quantity=quantity,
            spec=DigitalOutput(factor=factor),
        )
        plug = Device.objects.get(bench_id=bench_id, label=label).inputs.get()
        wired = {"input_id": plug.pk, "sensor_id": sensor.pk, "name": f"{quantity} {label}"}
        found = post(client, f"/api/setups/{setup['id']}/channels", wired, 201)
    assert {r["device_label"]: r["rate_hz"] for r in found["rates"]} == {"W1": 20, "S1": 10}
    post(client, f"/api/benches/{bench_id}/yoke")
    post(client, f"/api/setups/{setup['id']}/bench")
    zero = {"channels": [c["id"] for c in found["channels"]]}
    path = f"/api/setups/{setup['id']}/zero"

    def zeroed():
        answer = client.post(path, zero, content_type=JSON)
        return (
            answer.status_code == 200
            and not any(o["problem"] for o in answer.json())
            and answer.json()
        )

    assert len(wait_for(zeroed, "a zero of both", 30)) == 2


def test_an_address_that_is_none_is_told_with_its_reason(lab, setup, rig):
    path, free = f"/api/benches/{setup.bench_id}/try", processes.free_port()
    frame = rig.ports["Load frame"]

    def why(driver, port):
        try:
            body = {"driver": driver, "host": "127.0.0.1", "port": port}
            return post(as_engineer(), path, body, 409)["title"]
        finally:
            connection.close()  # this thread's

    with answering(dribble) as slow, ThreadPoolExecutor(3) as at_once:
        reasons = {
            ("bridge amplifier", free): f"Nothing answers at 127.0.0.1:{free}",
            ("weighing indicator", free): f"Nothing answers at 127.0.0.1:{free}",
            ("servo actuator", frame): "Choose that kind",
            ("weighing indicator", rig.ports["A1"]): "does not speak Modbus",
            ("bridge amplifier", rig.ports["W1"]): "does not answer in time",
            ("bridge amplifier", rig.ports["S1"]): "does not identify itself",
            ("line gauge", rig.ports["A1"]): "Nothing is sent",
            ("bridge amplifier", slow): "does not answer in time",
            ("line gauge", slow): "Nothing is sent",
            ("measuring module", frame): "is “LF25 load frame”, a device of another kind",
        }
        found = dict(zip(reasons, at_once.map(why, *zip(*reasons, strict=True)), strict=True))
    assert {k: v for k, v in found.items() if reasons[k] not in v} == {}
    linked = Device.objects.filter(bench=setup.bench, link=Link.LINKED).count()
    assert linked == setup.bench.devices.count()  # looking did not disturb the bench


@pytest.mark.django_db
def test_while_a_run_is_recorded_no_device_is_moved_or_taken_off_but_a_lost_one_is_followed(setup):
    client, bench = as_engineer(), setup.bench
    for port, device in enumerate(bench.devices.all(), start=5000):
        bench.devices.filter(pk=device.pk).update(link="linked", port=port)
    recorded.begin(setup)
    frame = bench.devices.get(label="Load frame")

    def put(label, driver, port):
        body = {"label": label, "driver": driver, "host": "127.0.0.1", "port": port}
        return client.put(f"/api/benches/{bench.pk}/devices", body, content_type=JSON)

    moved = put("Load frame", "load frame", 4711)
    assert (moved.status_code, code_of(moved)) == (409, "being-recorded")
    assert code_of(moved) == "being-recorded"
    taken = client.delete(f"/api/devices/{frame.pk}")
    assert (taken.status_code, code_of(taken)) == (409, "being-recorded")
    path = f"/api/benches/{bench.pk}/file"
    text = client.get(path).json()["text"]
    elsewhere = {"text": text.replace("port: 5001\n", "port: 4713\n")}
    assert elsewhere["text"] != text
    emptied = client.put(path, elsewhere, content_type=JSON)
    assert emptied.status_code == 409, emptied.content
    assert bench.devices.count() == 4
    assert put("S9", "line gauge", 4712).status_code == 200  # a new one disturbs nobody
    bench.devices.filter(pk=frame.pk).update(link="lost")
    assert put("Load frame", "load frame", 4711).status_code == 200
