"""Who may do what: one line an operation. One that is added needs its line."""

from uuid import UUID

import pytest
from django.test import Client
from yoke_server.config.api import api

JSON = "application/json"

ALL, WORK, ENGINEER = "everybody", "engineer technician", "engineer"
NOBODY, OPEN = "strangers, if they prove who they are", "also strangers"
ADDRESS = {"driver": "load frame", "host": "127.0.0.1", "port": 1}
DEVICE = {"label": "A9", "driver": "load frame", "host": "127.0.0.1", "port": 5}
GIVE = {"name": "x", "input_id": 1, "sensor_id": 1}
ROLES: dict[tuple[str, str], tuple[str, object]] = {
    ("get", "/api/session"): (ALL, None),
    ("post", "/api/session"): (NOBODY, {"username": "x", "password": "x"}),
    ("delete", "/api/session"): (ALL, None),
    ("get", "/api/session/preferences"): (ALL, None),
    ("patch", "/api/session/preferences"): (ALL, {}),
    ("post", "/api/session/password"): (ALL, {"old": "x", "new": "x"}),
    ("get", "/api/people"): (ENGINEER, None),
    ("post", "/api/people"): (
        ENGINEER,
        {"username": "x", "role": "reviewer", "password": "a long one, 42"},
    ),
    ("patch", "/api/people/{person_id}"): (ENGINEER, {"role": "reviewer"}),
    ("delete", "/api/people/{person_id}"): (ENGINEER, None),
    ("post", "/api/people/{person_id}/password"): (ENGINEER, {"password": "a long one, 42"}),
    ("post", "/api/people/{person_id}/end-sessions"): (ENGINEER, None),
    ("get", "/api/benches"): (ALL, None),
    ("get", "/api/benches/{bench_id}"): (ALL, None),
    ("delete", "/api/benches/{bench_id}"): (ENGINEER, None),
    ("post", "/api/benches/{bench_id}/archive"): (ENGINEER, None),
    ("post", "/api/benches/{bench_id}/yoke"): (WORK, {}),
    ("delete", "/api/benches/{bench_id}/yoke"): (WORK, None),
    ("get", "/api/welcome"): (OPEN, None),
    ("post", "/api/first-person"): (NOBODY, {"username": "x", "password": "x", "code": "x"}),
    ("post", "/api/benches"): (ENGINEER, {"name": "x"}),
    ("put", "/api/benches/{bench_id}/devices"): (ENGINEER, DEVICE),
    ("delete", "/api/devices/{device_id}"): (ENGINEER, None),
    ("get", "/api/drivers"): (ALL, None),
    ("post", "/api/benches/{bench_id}/find"): (ENGINEER, None),
    ("post", "/api/benches/{bench_id}/try"): (ENGINEER, ADDRESS),
    ("get", "/api/bench-file/schema"): (ALL, None),
    ("get", "/api/benches/{bench_id}/file"): (ALL, None),
    ("post", "/api/benches/{bench_id}/file/preview"): (ENGINEER, {"text": "x"}),
    ("put", "/api/benches/{bench_id}/file"): (ENGINEER, {"text": "x"}),
    ("get", "/api/projects"): (ALL, None),
    ("post", "/api/projects"): (WORK, {"name": "x"}),
    ("patch", "/api/projects/{project_id}"): (WORK, {"name": "x"}),
    ("post", "/api/projects/{project_id}/archive"): (WORK, None),
    ("post", "/api/projects/{project_id}/duplicate"): (WORK, None),
    ("post", "/api/projects/{project_id}/setups"): (
        WORK,
        {"kind": "tension", "bench_id": 1, "name": "x"},
    ),
    ("post", "/api/setups/{setup_id}/duplicate"): (WORK, None),
    ("get", "/api/setup-presets"): (ALL, None),
    ("get", "/api/sensors"): (ALL, None),
    ("get", "/api/sensor-kinds"): (ALL, None),
    ("get", "/api/library"): (ALL, None),
    ("get", "/api/library.csv"): (ALL, None),
    ("get", "/api/library.xlsx"): (ALL, None),
    ("post", "/api/library/import"): (WORK, None),
    ("post", "/api/sensors"): (WORK, {"record": {"kind": "load cell"}}),
    ("get", "/api/sensors/{sensor_id}"): (ALL, None),
    ("patch", "/api/sensors/{sensor_id}"): (WORK, {"record": {"note": "x"}}),
    ("post", "/api/sensors/{sensor_id}/retire"): (WORK, None),
    ("post", "/api/sensors/{sensor_id}/certificates"): (
        ENGINEER,
        {"number": "1", "calibrated_on": "2026-01-01"},
    ),
    ("put", "/api/certificates/{certificate_id}/file/{at}"): (ENGINEER, None),
    ("get", "/api/certificates/{certificate_id}/file"): (ALL, None),
    ("put", "/api/sensors/{sensor_id}/picture"): (WORK, None),
    ("delete", "/api/sensors/{sensor_id}/picture"): (WORK, None),
    ("get", "/api/pictures/{picture_id}"): (ALL, None),
    ("get", "/api/units"): (ALL, None),
    ("post", "/api/units"): (
        ENGINEER,
        {"name": "xyz", "quantity": "force", "definition": "2 kN"},
    ),
    ("get", "/api/setups/{setup_id}"): (ALL, None),
    ("patch", "/api/setups/{setup_id}"): (WORK, {"specimen": "x"}),
    ("post", "/api/setups/{setup_id}/bench"): (WORK, None),
    ("post", "/api/setups/{setup_id}/channels"): (WORK, GIVE),
    ("patch", "/api/setups/{setup_id}/channels"): (WORK, {"channels": [{"id": 1}]}),
    ("patch", "/api/setups/{setup_id}/devices/{device_id}"): (WORK, {"rate_hz": 100}),
    ("patch", "/api/channels/{channel_id}"): (WORK, {"decimals": 1}),
    ("delete", "/api/channels/{channel_id}"): (WORK, None),
    ("post", "/api/setups/{setup_id}/undo"): (WORK, None),
    ("post", "/api/setups/{setup_id}/computed"): (WORK, {"name": "x", "formula": "2 * F"}),
    ("patch", "/api/setups/{setup_id}/computed/{computed_key}"): (WORK, {"name": "x"}),
    ("delete", "/api/setups/{setup_id}/computed/{computed_key}"): (WORK, None),
    ("post", "/api/setups/{setup_id}/formula"): (ALL, {"text": "2 * F", "cursor": 0}),
    ("get", "/api/setups/{setup_id}/revisions"): (ALL, None),
    ("post", "/api/setups/{setup_id}/revisions/{number}/restore"): (ENGINEER, None),
    ("get", "/api/setups/{setup_id}/revisions/{number}/file"): (ALL, None),
    ("get", "/api/setup-file/schema"): (ALL, None),
    ("get", "/api/since"): (ALL, None),
    ("post", "/api/since/seen"): (ALL, {"until": "2026-01-01T00:00:00Z"}),
    ("get", "/api/projects/{project_id}/runs"): (ALL, None),
    ("post", "/api/curves/alignment"): (ALL, {"runs": [1], "align": {"kind": "start"}}),
    ("post", "/api/curves/window"): (ALL, {"windows": [], "channel": "F"}),
    ("get", "/api/projects/{project_id}/curve-pages"): (ALL, None),
    ("put", "/api/projects/{project_id}/curve-pages"): (WORK, {"name": "x", "page": {}}),
    ("delete", "/api/curve-pages/{page_id}"): (WORK, None),
    ("post", "/api/setups/{setup_id}/signal-checks"): (WORK, {}),
    ("get", "/api/setups/{setup_id}/signal-checks"): (ALL, None),
    ("get", "/api/signal-checks/{check_id}"): (ALL, None),
    ("post", "/api/setups/{setup_id}/spectrum"): (ALL, {"channel": "x"}),
    ("get", "/api/setups/{setup_id}/pages"): (ALL, None),
    ("put", "/api/setups/{setup_id}/pages"): (ALL, {"version": 1, "pages": [{"name": "x"}]}),
    ("delete", "/api/setups/{setup_id}/pages"): (ALL, None),
    ("get", "/api/programmes"): (ALL, None),
    ("post", "/api/setups/{setup_id}/programmes"): (WORK, {"name": "x"}),
    ("delete", "/api/programmes/{programme_id}"): (WORK, None),
    ("post", "/api/setups/{setup_id}/programme"): (WORK, {"programme_id": 1}),
    ("post", "/api/force-histories"): (ALL, {"text": "time (s); force (N)\n0; 0\n1; 1"}),
    ("get", "/api/templates"): (ALL, None),
    ("post", "/api/setups/{setup_id}/template"): (WORK, {"name": "x"}),
    ("delete", "/api/templates/{template_id}"): (WORK, None),
    ("post", "/api/projects/{project_id}/setups/from-template"): (
        WORK,
        {"template_id": 1, "bench_id": 1, "name": "x"},
    ),
    ("post", "/api/projects/{project_id}/setups/import"): (
        ENGINEER,
        {"bench_id": 1, "name": "x", "document": {}},
    ),
    ("get", "/api/channels/{channel_id}/curve"): (ALL, None),
    ("get", "/api/channels/{channel_id}/zeros"): (ALL, None),
    ("post", "/api/channels/{channel_id}/uncertainty"): (ALL, {"reading": 1.0, "deviation": 0.0}),
    ("post", "/api/channels/{channel_id}/scaling/certificate"): (ENGINEER, None),
    ("post", "/api/setups/{setup_id}/uncertainties"): (
        ALL,
        {"readings": [{"channel": 1, "reading": 0.0, "deviation": 0.0}]},
    ),
    ("patch", "/api/setups/{setup_id}/scaling"): (
        ENGINEER,
        {"channels": [{"id": 1, "polarity": "turned"}]},
    ),
    ("post", "/api/channels/{channel_id}/scaling/point"): (ENGINEER, {"point": 1, "value": 0.0}),
    ("post", "/api/channels/{channel_id}/shunt-span"): (ENGINEER, None),
    ("get", "/api/setups/{setup_id}/calibrations"): (ALL, None),
    ("post", "/api/channels/{channel_id}/calibrations"): (
        WORK,
        {"plan": {"loads": {"kind": "known_values", "values": [1.0]}, "rotations": [0.0]}},
    ),
    ("get", "/api/calibrations/{calibration_id}"): (ALL, None),
    ("post", "/api/calibrations/{calibration_id}/capture"): (WORK, {"step": 0}),
    ("post", "/api/calibrations/{calibration_id}/leave-out"): (WORK, {"step": 0, "reason": "xyz"}),
    ("post", "/api/calibrations/{calibration_id}/give-up"): (WORK, None),
    ("post", "/api/calibrations/{calibration_id}/accept"): (ENGINEER, {"number": "1"}),
    ("post", "/api/calibrations/{calibration_id}/certificate"): (ALL, None),
    ("get", "/api/runs/{run_id}/hints"): (ALL, None),
    ("post", "/api/setups/{setup_id}/corrections/effects"): (
        ALL,
        {"runs": [1], "correction": {"kind": "sign_correction", "channels": ["x"]}},
    ),
    ("get", "/api/runs/{run_id}/readings"): (ALL, None),
    ("post", "/api/runs/{run_id}/readings"): (ALL, {}),
    ("delete", "/api/runs/{run_id}/readings"): (WORK, None),
    ("post", "/api/runs/{run_id}/corrected-view"): (
        ALL,
        {"correction": {"kind": "sign_correction", "channels": ["x"]}, "channel": "x"},
    ),
    ("post", "/api/setups/{setup_id}/corrections"): (
        ENGINEER,
        {"runs": [1], "correction": {"kind": "sign_correction", "channels": ["x"]}, "reason": "x"},
    ),
    ("patch", "/api/setups/{setup_id}/corrections/{correction_key}"): (ENGINEER, {"on": False}),
    ("delete", "/api/setups/{setup_id}/corrections/{correction_key}"): (ENGINEER, None),
    ("post", "/api/channels/{channel_id}/chain"): (ALL, {"signal": 1e-4}),
    ("post", "/api/channels/{channel_id}/filter"): (
        ALL,
        {"step": {"kind": "low_pass", "corner_hz": 20.0}},
    ),
    ("patch", "/api/channels/{channel_id}/scaling"): (ENGINEER, {"polarity": "turned"}),
    ("post", "/api/setups/{setup_id}/cells"): (
        WORK,
        {"cells": [{"input_id": 1, "column": "name", "text": "x"}]},
    ),
    ("post", "/api/setups/{setup_id}/fill-down"): (
        WORK,
        {"inputs": [1, 2], "columns": ["name"]},
    ),
    ("post", "/api/setups/{setup_id}/wiring-check"): (WORK, {"channels": [1]}),
    ("post", "/api/setups/{setup_id}/plugs"): (WORK, None),
    ("post", "/api/setups/{setup_id}/moves"): (WORK, {"moves": [{"channel_id": 1, "input_id": 1}]}),
    ("post", "/api/sensors/from-sheet"): (WORK, {"memory": "ff"}),
    ("post", "/api/channels/{channel_id}/sheet"): (WORK, None),
    ("post", "/api/channels/{channel_id}/sign-test"): (
        WORK,
        {"positive": True, "polarity": "as wired", "moved": 5.0, "deviation": 0.0},
    ),
    ("post", "/api/devices/{device_id}/faults"): (WORK, {"input": 1, "faults": "broken 4"}),
    ("post", "/api/setups/{setup_id}/zero"): (WORK, {"channels": [1]}),
    ("post", "/api/setups/{setup_id}/tare"): (WORK, {"channels": [1]}),
    ("post", "/api/setups/{setup_id}/shunt-check"): (WORK, {"channels": [1]}),
    ("post", "/api/setups/{setup_id}/balance"): (WORK, {"channels": [1]}),
    ("post", "/api/setups/{setup_id}/shunt-check/external"): (
        WORK,
        {"channels": [1], "resistor": {"resistance_ohm": 1e5}},
    ),
    ("get", "/api/setups/{setup_id}/runs"): (ALL, None),
    ("post", "/api/setups/{setup_id}/runs"): (WORK, {"version": 1}),
    ("delete", "/api/setups/{setup_id}"): (WORK, None),
    ("post", "/api/setups/{setup_id}/files"): (WORK, {"name": "x", "size": 1}),
    ("put", "/api/files/{key}/parts/{at}"): (WORK, None),
    ("get", "/api/files/{key}"): (WORK, None),
    ("post", "/api/files/{key}/preview"): (WORK, {}),
    ("post", "/api/files/{key}/run"): (WORK, {}),
    ("delete", "/api/files/{key}"): (WORK, None),
    ("post", "/api/runs/{run_id}/stop"): (WORK, None),
    ("post", "/api/runs/{run_id}/commands"): (WORK, {"command": "pause"}),
    ("post", "/api/runs/{run_id}/markers"): (WORK, {"text": "sound"}),
    ("get", "/api/runs/{run_id}/markers"): (ALL, None),
    ("patch", "/api/runs/{run_id}"): (WORK, {"notes": "x"}),
    ("post", "/api/emergency-stop"): (ALL, None),
    ("post", "/api/benches/{bench_id}/emergency-stop"): (ALL, None),
    ("delete", "/api/benches/{bench_id}/emergency-stop"): (WORK, None),
    ("post", "/api/benches/{bench_id}/stop"): (WORK, None),
    ("post", "/api/benches/{bench_id}/return"): (WORK, None),
    ("post", "/api/benches/{bench_id}/reset-peaks"): (WORK, {"channels": []}),
    ("get", "/api/runs/{run_id}/view"): (ALL, None),
    ("get", "/api/runs/{run_id}/kept"): (ALL, None),
    ("get", "/api/runs/{run_id}/steps"): (ALL, None),
    ("post", "/api/runs/{run_id}/discard"): (WORK, {"reason": "slipped"}),
    ("post", "/api/runs/{run_id}/restore"): (WORK, None),
    ("get", "/api/formats"): (ALL, None),
    ("get", "/api/setups/{setup_id}/recipe-offers"): (ALL, None),
    ("get", "/api/runs/{run_id}/streams/{stream_id}/files/{name}"): (ALL, None),
    ("get", "/api/setups/{setup_id}/recipes"): (ALL, None),
    ("post", "/api/setups/{setup_id}/recipes"): (ENGINEER, {"parameters": {"kind": "tension"}}),
    ("patch", "/api/recipes/{recipe_id}"): (ENGINEER, {"parameters": {"kind": "tension"}}),
    ("delete", "/api/recipes/{recipe_id}"): (ENGINEER, None),
    ("get", "/api/runs/{run_id}/derivations"): (ALL, None),
    ("get", "/api/runs/{run_id}/derivations/{recipe_id}/arrays"): (ALL, None),
    ("get", "/api/setups/{setup_id}/series"): (ALL, None),
    ("post", "/api/setups/{setup_id}/wiring-sheet"): (ALL, None),
    ("get", "/api/setups/{setup_id}/wiring-sheet"): (ALL, None),
    ("get", "/api/setups/{setup_id}/wiring-sheet.pdf"): (ALL, None),
    ("get", "/api/setups/{setup_id}/reports"): (ALL, None),
    ("get", "/api/runs/{run_id}/blocks"): (ALL, None),
    ("post", "/api/runs/{run_id}/report"): (WORK, None),
    ("patch", "/api/reports/{report_id}"): (WORK, {"title": "x"}),
    ("post", "/api/reports/{report_id}/pdf"): (WORK, None),
    ("get", "/api/tasks/{task_id}"): (ALL, None),
    ("get", "/api/reports/{report_id}/file.pdf"): (ALL, None),
    ("get", "/api/reports/{report_id}/pages/{number}.png"): (ALL, None),
}


class Ones(dict):
    def __missing__(self, key):
        return str(UUID(int=1)) if key == "key" else "1"


def operations():
    for path, methods in api.get_openapi_schema()["paths"].items():
        for method in methods:
            yield method, path


def ask(client, method, path, body=None):
    more = {} if body is None else {"data": body, "content_type": JSON}
    return getattr(client, method)(path.format_map(Ones()), **more)


def test_every_operation_has_its_line():
    assert set(operations()) == set(ROLES)


@pytest.mark.django_db
@pytest.mark.parametrize(
    ("method", "path"), [o for o, (who, _) in ROLES.items() if who != OPEN], ids=str
)
def test_strangers_get_nothing(method, path):
    body = ROLES[method, path][1]
    answer = ask(Client(), method, path, body)
    assert answer.status_code in (401, 403)
    assert answer["Content-Type"] == "application/problem+json"
    assert answer.json()["title"]


def test_strangers_do_not_get_the_description(as_role):
    assert Client().get("/api/openapi.json").status_code == 401
    assert "paths" in as_role("reviewer").get("/api/openapi.json").json()


@pytest.mark.parametrize("role", ["reviewer", "technician"])
@pytest.mark.parametrize(
    ("method", "path"), [o for o, (who, _) in ROLES.items() if who in (WORK, ENGINEER)], ids=str
)
def test_a_role_does_no_more_than_it_may(as_role, method, path, role, settings):
    settings.ORDER_SECONDS = 0.05  # no recorder is there
    who, body = ROLES[method, path]
    answer = ask(as_role(role), method, path, body)
    if role in who:
        assert answer.status_code != 403, answer.content
    elif answer.status_code == 403:
        assert f"{role} may not" in answer.json()["title"]
    else:  # it is not there, or not this person's: said before rights are asked
        assert answer.status_code in (404, 409), answer.content
