"""`manage.py load_demo`: the demo's data, and its first runs recorded from simulated benches."""

import json
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from typing import Any

from asgiref.sync import async_to_sync
from django.core.management.base import BaseCommand, CommandError
from django.db import connection

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import User
from yoke_server.bench.models import Bench, Device, Link, Order
from yoke_server.bench.services import hand_over, take_yoke
from yoke_server.bench.waiting import answer_to
from yoke_server.calibrate import services as calibrate
from yoke_server.common.problems import Problem
from yoke_server.config import demo
from yoke_server.derive.kinds.cycles import CyclesParameters
from yoke_server.derive.services import add_recipe, add_suggested, derive_stale
from yoke_server.record.models import OPEN_STATES, Run, RunState
from yoke_server.record.recorder.model.clock import SystemClock
from yoke_server.record.recorder.process import Recorder
from yoke_server.record.services import order_return, order_run
from yoke_server.wire.models import Setup
from yoke_server.wire.orders import order_of_channels
from yoke_server.wire.services import change_setup, put_on_bench

SPEED = 8.0
TIME_LIMIT = 60.0  # s
MORE_TRIES = 2


class Command(BaseCommand):
    help = __doc__

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("--without-run", action="store_true")

    def handle(self, *args: Any, **options: Any) -> None:
        demo.load({})
        setups = [demo.load_coupons(), *demo.load_fork()]
        if not options["without_run"] and not Run.objects.exists():
            record_first_runs(setups)


def record_first_runs(setups: list[Setup]) -> None:
    """A run of each setup, with a rig of its own that runs faster than life."""
    rig = start_rig()
    assert rig.stdout is not None
    demo.load(json.loads(rig.stdout.readline()))
    recorder = Recorder(clock=SystemClock(SPEED))
    thread = threading.Thread(target=recorder.run)
    try:
        thread.start()
        benches = {s.bench_id: [t for t in setups if t.bench_id == s.bench_id] for s in setups}
        with ThreadPoolExecutor(len(benches)) as at_once:
            list(at_once.map(_record_all, benches.values()))
        change_setup(_engineer(), setups[0].pk, specimen="C2")
    finally:
        recorder.stop()
        thread.join()
        rig.terminate()
        rig.wait()
        Device.objects.update(link=Link.UNKNOWN, link_note="", port=demo.UNPLACED)


def start_rig() -> "subprocess.Popen[str]":
    """It ends with this process, also if that is killed: the launcher does so after Ctrl-C."""
    return subprocess.Popen(
        ["setpriv", "--pdeathsig", "TERM", sys.executable, "-m", "yoke_rig", "--speed", str(SPEED),
         "--seed", "1"],
        stdout=subprocess.PIPE, text=True,
    )  # fmt: skip


def _record_all(of_bench: list[Setup]) -> None:
    """The setups of one bench, one after the other, in a thread of their own."""
    try:
        for setup in of_bench:
            _wait(lambda bench=setup.bench: _linked(bench), "the devices")
            _record(setup)
    finally:
        connection.close()


def _engineer() -> Actor:
    return Actor(User.objects.get(username="engineer"), "demo")


def _linked(bench: Bench) -> bool:
    return not bench.devices.exclude(link=Link.LINKED).exists()


def _record(setup: Setup) -> None:
    """Zero, check, record what the setup is for, derive, and go home."""
    actor = _engineer()
    take_yoke(actor, setup.bench_id)
    put_on_bench(actor, setup.pk)
    channels = setup.channels.all()
    bridges = [c.pk for c in channels if c.wiring.kind == "bridge"]
    zeroed = [c.pk for c in channels if c.wiring.kind != "thermometer"]
    for chosen, kind, keep in (
        (zeroed, "measure", calibrate.keep_zeros),
        (bridges, "shunt", calibrate.keep_shunt_checks),
    ):
        keep(actor, setup.pk, _measured(actor, setup, chosen, kind))
    _wait(lambda: _home(setup), "the actuator at home")
    run = setup.runs.get(pk=_tried(lambda: order_run(actor, setup.pk))["run"])
    _wait(lambda: not setup.runs.filter(state__in=OPEN_STATES).exists(), "the run")
    run.refresh_from_db()
    if run.state != RunState.KEPT:
        raise CommandError(f"{run.name} of the demo ended as {run.state}: {run.ended_because}")
    add_suggested(setup.pk)
    if setup.motion.kind == "force_sine":
        crown = channels.get(name="R1a")
        add_recipe(actor, setup.pk, CyclesParameters(channel=crown.key, gate=5e-6))
    derive_stale(setup.pk)
    _answer(order_return(actor, setup.bench_id))
    _wait(lambda: _home(setup), "the actuator at home")
    hand_over(actor, setup.bench_id)


def _measured(actor: Actor, setup: Setup, channels: list[int], kind: str) -> dict[str, Any]:
    return _tried(lambda: order_of_channels(actor, setup.pk, channels, kind))


def _tried(give: Callable[[], Order]) -> dict[str, Any]:
    """Anew where it is refused: a slow computer does not always keep up with this pace."""
    for _ in range(MORE_TRIES):
        with suppress(Problem):
            return _answer(give())
    return _answer(give())


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
