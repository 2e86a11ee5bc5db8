"""A bench as a text file: written, read, and refused by line and key."""

import json

import pytest
from jsonschema_rs import Draft202012Validator
from ruamel.yaml import YAML
from yoke_server.bench.text_file.services import write_bench_file

from tests.problems import code_of

JSON = "application/json"
HEAD = "yoke_bench: 1\nbench: Shed\ndevices:\n"
A1 = "  - label: A1\n    driver: bridge amplifier\n    address: 10.0.0.7\n    port: 5025\n"


@pytest.fixture
def client(as_role, setup):
    for n, device in enumerate(setup.bench.devices.all()):
        setup.bench.devices.filter(pk=device.pk).update(port=40_100 + n)
    return as_role("engineer")


def preview(client, setup, text):
    path = f"/api/benches/{setup.bench_id}/file/preview"
    return client.post(path, {"text": text}, content_type=JSON)


def test_what_is_written_reads_back_as_the_same_bench_and_fits_the_schema(client, setup):
    text = client.get(f"/api/benches/{setup.bench_id}/file").json()["text"]
    assert preview(client, setup, text).json() == {"changes": []}
    schema = client.get("/api/bench-file/schema").json()
    plain = json.loads(json.dumps(YAML(typ="safe").load(text)))
    assert Draft202012Validator(schema).is_valid(plain)
    assert not Draft202012Validator(schema).is_valid({**plain, "colour": "red"})


def test_a_text_moves_adds_and_takes_off_as_one(client, setup):
    bench = setup.bench
    text = write_bench_file(bench).replace("label: M1", "label: M9")
    frame = bench.devices.get(driver="load frame")
    text = text.replace(f"port: {frame.port}\n", "port: 40999\n")
    found = preview(client, setup, text).json()["changes"]
    assert found == [
        f"Moves Load frame from 127.0.0.1:{frame.port} to 127.0.0.1:40999",
        f"Adds M9, a measuring module at 127.0.0.1:{bench.devices.get(label='M1').port}",
        "Takes M1 off, a measuring module",
    ]
    path = f"/api/benches/{bench.pk}/file"
    assert client.put(path, {"text": text}, JSON).json()["changes"] == found
    assert set(bench.devices.values_list("label", flat=True)) >= {"M9", "A1", "Load frame"}
    assert bench.devices.get(label="M9").inputs.count() == 8
    # A1 has sensors: it does not go, and so nothing of that text is done.
    without = YAML(typ="safe").load(text)
    without["devices"] = [d for d in without["devices"] if d["label"] != "A1"]
    without["devices"][-1]["port"] = 41000
    answer = client.put(path, {"text": json.dumps(without)}, JSON)
    assert answer.status_code == 409
    assert code_of(answer) == "in-use"
    assert not bench.devices.filter(port=41000).exists()


def test_two_devices_may_change_their_addresses_in_one_text(client, setup):
    bench = setup.bench
    one, other = bench.devices.get(label="A1").port, bench.devices.get(label="A2").port
    text = write_bench_file(bench).replace(f"port: {one}\n", "port: 1\n")
    text = text.replace(f"port: {other}\n", f"port: {one}\n").replace(
        "port: 1\n", f"port: {other}\n"
    )
    answer = client.put(f"/api/benches/{bench.pk}/file", {"text": text}, JSON)
    assert len(answer.json()["changes"]) == 2
    assert bench.devices.get(label="A1").port == other
    assert bench.devices.get(label="A2").port == one


def a1(before, after):
    return HEAD + A1.replace(before, after)


WRONG = [
    (a1("port", "prot"), "Line 7: the key “prot” is not known.", "devices.0.prot"),
    (a1("5025", "70000"), "Line 7: port must be at most 65535.", "devices.0.port"),
    (a1("5025", "many"), "Line 7: port must be a number.", "devices.0.port"),
    (a1("    port: 5025\n", ""), "Line 4: port is missing.", "devices.0.port"),
    (a1("0.7", "0.7; rm"), "Line 6: address is not what is expected here.", "devices.0.address"),
    (a1("    driver", "\tdriver"), "Line 5: a tab stands where spaces must.", "text"),
    (HEAD + A1 + "    port: 5026\n", "Line 8: “port” is there twice.", "text"),
    (HEAD + A1 + A1.replace("5025", "5026"), "The label A1 is there twice.", "devices.1.label"),
    (HEAD + A1 + A1.replace("A1", "A9"), "Device A9: 10.0.0.7:5025 is A1's", "devices.1.address"),
    (a1("10.0.0.7", "/dev/ttyUSB0"), "Device A1: a bridge amplifier does not", "devices.0.address"),
    (a1("5025", "0"), "Device A1: port must be at least 1.", "devices.0.port"),
    (a1("bridge amplifier", "teapot"), "Device A1: there is no driver", "devices.0.driver"),
    (a1("A1", "Load frame"), "Load frame is a load frame already.", "devices.0.driver"),
    ("a: &a [x, x]\nb: [*a, *a]\n", "Line 1: anchors and aliases", "text"),
    ("[" * 9_000, "Line 1: this is nested too deep.", "text"),
    ("!!python/object/apply:os.system [ls]", "Line 1: the file holds no bench.", "text"),
    ("yoke_bench: 1\nbench: [\n", "Line 3: this is no YAML", "text"),
    ("x" * 100_000, "The file has more than 16 kB.", "text"),
    ("", "Line 1: the file holds no bench.", "text"),
    (
        "yoke_bench: 2\nbench: B\ndevices: []\n",
        "Line 1: yoke bench must be one of 1.",
        "yoke_bench",
    ),
]


@pytest.mark.parametrize(("text", "title", "field"), WRONG)
def test_what_is_wrong_is_named_by_line_and_key(client, setup, text, title, field):
    answer = preview(client, setup, text)
    problem = answer.json()
    assert answer.status_code in (409, 422), problem
    assert problem["title"].startswith(title), problem
    assert problem["field"] == field
    assert problem["hint"]


def test_a_near_key_is_proposed(client, setup):
    assert preview(client, setup, HEAD + A1.replace("port", "prot")).json()["hint"] == (
        "Did you mean “port”?"
    )
