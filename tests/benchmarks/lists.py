"""Pages of long lists, against a view that reads one row."""

import uuid
from datetime import UTC, datetime
from typing import Any

from django.test import Client, override_settings

from tests import recorded
from tests.benchmarks.lab import fresh_setup
from tests.benchmarks.measure import Row, interleaved

PROJECTS, RUNS, SENSORS = 2_000, 10_000, 2_500
MAX_RATIO = 20.0


def measure() -> list[Row]:
    from yoke_server.accounts.models import User

    setup = fresh_setup()
    many_runs(setup)
    many_projects(setup)
    many_sensors(setup)
    with override_settings(ROOT_URLCONF="tests.benchmarks.bare"):
        client = Client(headers={"host": "127.0.0.1"})
        client.force_login(User.objects.get(username="engineer"))

        def asked(address: str) -> Any:
            answer = client.get(address)
            assert answer.status_code == 200, answer.content
            return answer.json()

        last = asked("/api/projects")["next"]
        rows = []
        for words, address in (
            (f"a page of {PROJECTS} projects", "/api/projects"),
            ("  the one behind it", f"/api/projects?before={last}"),
            ("  found by two words", "/api/projects?search=coupons%2017"),
            (f"a page of {RUNS} runs", f"/api/setups/{setup.pk}/runs"),
            ("  found by a word", f"/api/setups/{setup.pk}/runs?search=run%209999"),
            (f"a page of {SENSORS} instruments", "/api/library"),
            ("  of a kind, found by a word", "/api/library?kind=strain%20gauge&search=G2499"),
        ):
            assert asked(address)["items"]
            ours, bare = interleaved(
                lambda at=address: asked(at), lambda: asked("/bare"), rounds=30
            )
            rows.append(
                Row(
                    words,
                    ours * 1e3,
                    bare * 1e3,
                    "ms",
                    f"ratio at most {MAX_RATIO:g}",
                    ours <= MAX_RATIO * bare,
                )
            )
    return rows


def many_runs(setup: Any) -> None:
    """Kept runs without samples, each with its stream."""
    from yoke_server.record.models import Run, RunState, Stream, StreamChannel

    revision, now = setup.revisions.get(number=setup.version), datetime.now(UTC)
    runs = Run.objects.bulk_create(
        Run(
            setup=setup,
            revision=revision,
            number=n,
            order_key=uuid.uuid4(),
            name=f"C1 run {n}",
            state=RunState.KEPT,
            started_at=now,
            ended_at=now,
            start_ns=recorded.START,
        )
        for n in range(1, RUNS + 1)
    )
    streams = Stream.objects.bulk_create(
        Stream(run=run, device_label="A1", rate_hz=1000.0, samples=0) for run in runs
    )
    channels = list(setup.channels.filter(input__device__label="A1"))
    StreamChannel.objects.bulk_create(
        (
            StreamChannel(stream=s, position=i, channel_key=c.key, signal="bridge ratio")
            for s in streams
            for i, c in enumerate(channels)
        ),
        batch_size=5000,
    )


def many_sensors(setup: Any) -> None:
    """Gauges like one of the demo's."""
    from yoke_server.sensors.models import Sensor

    gauge = setup.channels.get(name="SG1").sensor
    fields = {f.attname: getattr(gauge, f.attname) for f in Sensor._meta.concrete_fields}
    Sensor.objects.bulk_create(
        Sensor(**{**fields, "id": None, "serial": f"G{n}"}) for n in range(SENSORS)
    )


def many_projects(setup: Any) -> None:
    """Each with a setup like the demo's, all of them with a zero."""
    from yoke_server.setups.models import Balance, Channel, Project, Setup, new_key

    channels = list(setup.channels.all())
    projects = Project.objects.bulk_create(
        Project(name=f"Coupons {n}", customer=f"Customer {n % 17}") for n in range(PROJECTS)
    )
    setups = Setup.objects.bulk_create(
        Setup(
            project=p,
            bench=setup.bench,
            name=setup.name,
            specimen=setup.specimen,
            piece=setup.piece,
            motion=setup.motion,
            stops=setup.stops,
        )
        for p in projects
    )
    fields = [
        f.attname for f in Channel._meta.concrete_fields if f.name not in ("id", "setup", "key")
    ]
    copies = Channel.objects.bulk_create(
        (
            Channel(setup=s, key=new_key(), **{name: getattr(c, name) for name in fields})
            for s in setups
            for c in channels
        ),
        batch_size=2000,
    )
    Balance.objects.bulk_create(
        (Balance(setup_id=c.setup_id, channel_key=c.key, zero=1e-5) for c in copies),
        batch_size=5000,
    )
