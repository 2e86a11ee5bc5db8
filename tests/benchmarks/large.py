"""A setup of 512 channels: what changes all of them, against a bare Django view."""

import json
from collections.abc import Callable
from typing import Any

from django.test import Client, override_settings

from tests import recorded
from tests.benchmarks.lab import fresh_setup
from tests.benchmarks.measure import Row, timed

DEVICES, CHANNELS = 64, 512
MAX_RATIO = 2000.0  # two seconds, where the bare view takes a thousandth of one
JSON = "application/json"


def measure() -> list[Row]:
    from yoke_server.accounts.models import User

    setup = fresh_setup()
    recorded.record(setup, [recorded.block(0)])  # the row that the bare view reads
    large = empty_setup(setup)
    with override_settings(ROOT_URLCONF="tests.benchmarks.bare"):
        client = Client(headers={"host": "127.0.0.1"})
        client.force_login(User.objects.get(username="engineer"))
        bare = min(timed(lambda: client.get("/bare")) for _ in range(30))
        return [
            Row(
                words,
                took * 1e3,
                bare * 1e3,
                "ms",
                f"ratio at most {MAX_RATIO:g}",
                took <= MAX_RATIO * bare,
            )
            for words, took in Actions(client, large).times()
        ]


def empty_setup(demo: Any) -> Any:
    """A setup of its own on a bench with so many inputs, and as many gauges in the library."""
    from yoke_server.bench.models import Bench
    from yoke_server.bench.services import add_device
    from yoke_server.sensors.models import Sensor
    from yoke_server.setups.models import Setup
    from yoke_server.setups.services import keep_revision

    bench = Bench.objects.create(name="Large bench")
    for n in range(1, DEVICES + 1):
        add_device(bench, f"B{n}", "bridge amplifier", host="10.0.0.1", port=n)
    gauge = demo.channels.get(name="SG1").sensor
    fields = {f.attname: getattr(gauge, f.attname) for f in Sensor._meta.concrete_fields}
    Sensor.objects.bulk_create(
        Sensor(**{**fields, "id": None, "serial": f"G{n}"}) for n in range(1, CHANNELS + 1)
    )
    setup = Setup.objects.create(
        project=demo.project,
        bench=bench,
        name="Large",
        specimen=demo.specimen,
        piece=demo.piece,
        motion=demo.motion,
        stops=demo.stops,
    )
    keep_revision(None, setup, "begun")
    return setup


class Actions:
    """What a person does to the whole of the setup, through the API."""

    def __init__(self, client: Client, setup: Any) -> None:
        from yoke_server.bench.models import Input

        self._client = client
        self._setup = setup
        rows = Input.objects.filter(device__bench=setup.bench).order_by("device_id", "number")
        self._inputs = list(rows.values_list("pk", flat=True))

    def times(self) -> list[tuple[str, float]]:
        """Words and seconds, in the order in which it is done."""
        whole = f"/api/setups/{self._setup.pk}"
        sensors = self._cells("sensor", lambda n: f"G{n}")
        names = self._cells("name", lambda n: f"Gauge {n}")
        areas = self._cells("lead", lambda n: f"{n % 50 + 1} m")
        down = {"inputs": self._inputs, "columns": ["name", "lead"], "dry": False}
        actions: list[tuple[str, Callable[[], object]]] = [
            (f"paste {CHANNELS} sensors", lambda: self._post(f"{whole}/cells", sensors)),
            ("  undo", lambda: self._post(f"{whole}/undo", {})),
            ("  redo", lambda: self._post(f"{whole}/undo?redo=true", {})),
            (
                "  paste names and lengths",
                lambda: self._post(
                    f"{whole}/cells", {**names, "cells": names["cells"] + areas["cells"]}
                ),
            ),
            ("  undo", lambda: self._post(f"{whole}/undo", {})),
            ("  fill down names and lengths", lambda: self._post(f"{whole}/fill-down", down)),
            ("  open", lambda: self._get(whole)),
            ("  versions", lambda: self._get(f"{whole}/revisions")),
            ("  the version as a file", lambda: self._export(whole)),
            (
                "  a setup of that file",
                lambda: self._post(
                    f"/api/projects/{self._setup.project_id}/setups/import", self._file
                ),
            ),
            ("  duplicate", lambda: self._post(f"{whole}/duplicate", {})),
        ]
        return [(words, timed(action)) for words, action in actions]

    def _cells(self, column: str, text: Callable[[int], str]) -> dict[str, Any]:
        cells = [
            {"input_id": pk, "column": column, "text": text(n)}
            for n, pk in enumerate(self._inputs, start=1)
        ]
        return {"cells": cells, "dry": False}

    def _export(self, whole: str) -> None:
        found = self._get(f"{whole}/revisions/{self._get(whole)['version']}/file")
        assert len(found["channels"]) == CHANNELS
        self._file = {"bench_id": self._setup.bench_id, "name": "Again", "document": found}

    def _get(self, path: str) -> Any:
        answer = self._client.get(path)
        assert answer.status_code == 200, answer.content
        return answer.json()

    def _post(self, path: str, body: dict[str, Any]) -> None:
        answer = self._client.post(path, json.dumps(body), content_type=JSON)
        assert answer.status_code in (200, 201), answer.content[:500]
        refused = [c for c in answer.json().get("cells", ()) if c["why_not"]]
        assert not refused, refused[:3]
