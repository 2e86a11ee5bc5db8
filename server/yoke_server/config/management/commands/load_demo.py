"""`manage.py load_demo`: the demo's data, and its first run recorded from the simulated bench."""

import json
import subprocess
import sys
import threading
import time
from typing import Any

from asgiref.sync import async_to_sync
from django.core.management.base import BaseCommand, CommandError

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import User
from yoke_server.bench.models import Device, Link, Order
from yoke_server.bench.services import hand_over, take_yoke
from yoke_server.bench.waiting import answer_to
from yoke_server.calibrate import services as calibrate
from yoke_server.config import demo
from yoke_server.derive.services import derive_stale
from yoke_server.record.models import OPEN_STATES, RunState
from yoke_server.record.recorder.clock import SystemClock
from yoke_server.record.recorder.process import Recorder
from yoke_server.record.services import order_return, order_run
from yoke_server.wire.models import Setup
from yoke_server.wire.services import change_setup

SPEED = 12.0
TIME_LIMIT = 60.0  # s


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--without-run", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        setup = demo.load()
        if not options["without_run"] and not setup.runs.exists():
            record_first_run(setup)


def record_first_run(setup: Setup) -> None:
    """Zero, check and pull with a rig of its own that runs faster than life."""
    rig = subprocess.Popen(
        [sys.executable, "-m", "yoke_rig", "--speed", str(SPEED), "--seed", "1"],
        stdout=subprocess.PIPE,
        text=True,
    )
    assert rig.stdout is not None
    demo.load(json.loads(rig.stdout.readline()))
    recorder = Recorder(clock=SystemClock(SPEED))
    thread = threading.Thread(target=recorder.run)
    try:
        thread.start()
        _wait(lambda: _linked(setup), "the devices")
        _pull(setup)
    finally:
        recorder.stop()
        thread.join()
        rig.terminate()
        rig.wait()
        Device.objects.filter(bench=setup.bench).update(
            link=Link.UNKNOWN, link_note="", port=demo.UNPLACED
        )


def _linked(setup: Setup) -> bool:
    return not setup.bench.devices.exclude(link=Link.LINKED).exists()


def _pull(setup: Setup) -> None:
    actor = Actor(User.objects.get(username="engineer"), "demo")
    take_yoke(actor, setup.bench_id)
    channels = list(setup.channels.values_list("pk", flat=True))
    for kind, keep in (
        ("measure", calibrate.keep_zeros),
        ("shunt", calibrate.keep_shunt_checks),
    ):
        keep(actor, setup.pk, _answer(calibrate.order(actor, setup.pk, channels, kind)))
    _wait(lambda: _home(setup), "the actuator at home")
    run = setup.runs.get(pk=_answer(order_run(actor, setup.pk))["run"])
    _wait(lambda: not setup.runs.filter(state__in=OPEN_STATES).exists(), "the pull")
    run.refresh_from_db()
    if run.state != RunState.KEPT:
        raise CommandError(f"The demo's run ended as {run.state}: {run.ended_because}")
    derive_stale(setup.pk)
    _answer(order_return(actor, setup.bench_id))
    _wait(lambda: _home(setup), "the actuator at home")
    change_setup(actor, setup.pk, specimen="C2")
    hand_over(actor, setup.bench_id)


def _answer(order: Order) -> dict[str, Any]:
    return async_to_sync(answer_to)(order)


def _home(setup: Setup) -> bool:
    setup.bench.refresh_from_db()
    return bool(setup.bench.state.get("home"))


def _wait(condition: Any, what: str) -> None:
    deadline = time.monotonic() + TIME_LIMIT
    while not condition():
        if time.monotonic() > deadline:
            raise CommandError(f"Waited too long for {what}.")
        time.sleep(0.05)
