"""`manage.py load_demo`: the demo's data, and its first run recorded from the simulated bench."""

import os
import socket
import subprocess
import sys
import threading
import time
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import User
from yoke_server.bench.services import hand_over, take_yoke
from yoke_server.calibrate.services import shunt_check, zero
from yoke_server.derive.services import derive
from yoke_server.record.models import OPEN_STATES, RunState
from yoke_server.record.recorder.process import Recorder
from yoke_server.record.services import order_bench, start_run
from yoke_server.wire import demo
from yoke_server.wire.models import Setup
from yoke_server.wire.services import change_setup

SPEED = 12.0
TIME_LIMIT = 60.0  # s


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--without-run", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        port = int(os.environ.get("YOKE_DEMO_RIG_PORT", "8010"))
        setup = demo.load(port)
        if not options["without_run"] and not setup.runs.exists():
            record_first_run(setup)
            demo.load(port)


def record_first_run(setup: Setup) -> None:
    """Zero, check and pull with a rig of its own that runs faster than life."""
    port = _three_free_ports()
    rig = subprocess.Popen(
        [
            sys.executable,
            "-m",
            "yoke_rig",
            "--port",
            str(port),
            "--speed",
            str(SPEED),
            "--seed",
            "1",
        ]
    )
    demo.bench(port)
    recorder = Recorder()
    thread = threading.Thread(target=recorder.run)
    try:
        _wait(lambda: socket.socket().connect_ex(("127.0.0.1", port)) == 0, "the rig")
        thread.start()
        _wait(lambda: setup.bench.amplifiers.filter(link="linked").exists(), "the amplifier")
        _pull(setup)
    finally:
        recorder.stop()
        thread.join()
        rig.terminate()
        rig.wait()


def _pull(setup: Setup) -> None:
    actor = Actor(User.objects.get(username="engineer"), "demo")
    take_yoke(actor, setup.bench_id)
    channels = list(setup.channels.values_list("pk", flat=True))
    zero(actor, setup.pk, channels)
    shunt_check(actor, setup.pk, channels)
    run = start_run(actor, setup.pk)
    _wait(lambda: not setup.runs.filter(state__in=OPEN_STATES).exists(), "the pull")
    run.refresh_from_db()
    if run.state != RunState.KEPT:
        raise CommandError(f"The demo's run ended as {run.state}: {run.ended_because}")
    derive(run)
    order_bench(actor, setup.bench_id, "return")
    change_setup(actor, setup.pk, specimen="C2")
    hand_over(actor, setup.bench_id)


def _wait(condition: Any, what: str) -> None:
    deadline = time.monotonic() + TIME_LIMIT
    while not condition():
        if time.monotonic() > deadline:
            raise CommandError(f"Waited too long for {what}.")
        time.sleep(0.05)


def _three_free_ports() -> int:
    """A port with two free ones after it."""
    while True:
        sockets = [socket.socket() for _ in range(3)]
        try:
            sockets[0].bind(("127.0.0.1", 0))
            port = int(sockets[0].getsockname()[1])
            for offset in (1, 2):
                sockets[offset].bind(("127.0.0.1", port + offset))
        except OSError:
            continue
        else:
            return port
        finally:
            for s in sockets:
                s.close()
