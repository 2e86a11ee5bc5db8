"""`manage.py load_demo`: the demo's data, and its first runs recorded on simulated benches."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

from django.core.management.base import BaseCommand, CommandError

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.models import User
from yoke_server.bench.models import Device, Link, Order
from yoke_server.bench.services import hand_over, take_yoke
from yoke_server.bench.waiting import answer_so_far
from yoke_server.calibrate import services as calibrate
from yoke_server.calibrate.shunts import keep_shunt_checks
from yoke_server.demo import services as demo
from yoke_server.demo.bench import STEP, DemoBench, SteppedRig
from yoke_server.derive.computing import add_suggested, derive_stale
from yoke_server.derive.kinds.cycles.spec import CyclesParameters
from yoke_server.derive.services import add_recipe
from yoke_server.kinds.chain import takes_zero
from yoke_server.kinds.keep_rules.base import main_of
from yoke_server.kinds.orders.measuring import RestReadings, ShuntReadings
from yoke_server.record.models import OPEN_STATES, Run, RunState
from yoke_server.record.queries import document_of
from yoke_server.record.services import order_return, order_run
from yoke_server.record.streams import streams_of
from yoke_server.setups.freezing import freeze_channels
from yoke_server.setups.models import Setup
from yoke_server.setups.services import change_setup, put_on_bench
from yoke_server.wire.orders import order_rest, order_shunts

RIGS = {"Shed bench": "shed", "Fork bench": "fork"}


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
    """A run of each setup, on a rig of its own whose time passes in steps."""
    for bench in dict.fromkeys(s.bench for s in setups):
        with _served(bench.pk, RIGS[bench.name]) as served:
            for setup in (s for s in setups if s.bench_id == bench.pk):
                _record(served, setup)
    change_setup(_engineer(), setups[0].pk, specimen="C2")


@contextmanager
def _served(bench_id: int, rig: str) -> Iterator[DemoBench]:
    served = DemoBench(bench_id, SteppedRig(rig))
    try:
        yield served
    except TimeoutError as late:
        raise CommandError(str(late)) from late
    finally:
        served.close()
        Device.objects.update(link=Link.UNKNOWN, link_note="", port=demo.UNPLACED)


def _engineer() -> Actor:
    return Actor(User.objects.get(username="engineer"), "demo")


def _record(bench: DemoBench, setup: Setup) -> None:
    """Zero, check, record what the setup is for, derive, and go home."""
    actor, devices = _engineer(), setup.bench.devices
    bench.wait_for(lambda: not devices.exclude(link=Link.LINKED).exists(), "the devices")
    take_yoke(actor, setup.bench_id)
    put_on_bench(actor, setup.pk)
    channels = setup.channels.all()
    frozen = {c.key: c for c in freeze_channels(setup)}
    bridges = [c.pk for c in channels if c.wiring.has_shunt]
    zeroed = [c.pk for c in channels if takes_zero(frozen[c.key])]
    rest = RestReadings.model_validate(_answer(bench, order_rest(actor, setup.pk, zeroed)))
    calibrate.keep_zeros(actor, setup.pk, rest.root)
    shunts = ShuntReadings.model_validate(_answer(bench, order_shunts(actor, setup.pk, bridges)))
    keep_shunt_checks(actor, setup.pk, shunts.root)
    _check(_run(bench, actor, setup))
    add_suggested(setup.pk)
    if setup.motion.has_cycles:
        crown = channels.get(name="R1a")
        add_recipe(actor, setup.pk, CyclesParameters(channel=crown.key, gate=5e-6))
    derive_stale(setup.pk)
    _answer(bench, order_return(actor, setup.bench_id))
    bench.wait_for(lambda: _home(setup), "the actuator at home")
    hand_over(actor, setup.bench_id)


def _run(bench: DemoBench, actor: Actor, setup: Setup) -> Run:
    bench.wait_for(lambda: _home(setup), "the actuator at home")
    setup.refresh_from_db()
    order = order_run(actor, setup.pk, version=setup.version)
    run = setup.runs.get(pk=_answer(bench, order)["run"])
    bench.wait_for(lambda: not setup.runs.filter(state__in=OPEN_STATES).exists(), "the run")
    run.refresh_from_db()
    return run


def _check(run: Run) -> None:
    """Nothing less than all of it is shown as an example."""
    if run.state != RunState.KEPT:
        raise CommandError(f"{run.name} of the demo ended as {run.state}: {run.ended_because}")
    main = main_of(document_of(run).keep_rules)
    streams = [s for s in streams_of(run.pk) if main and s.rule == main[0]]
    ends = [s.end_s for s in streams]
    if any(s.gaps for s in streams) or max(ends) - min(ends) > 2 * STEP:
        raise CommandError(f"Samples of {run.name} of the demo are missing.")


def _answer(bench: DemoBench, order: Order) -> dict[str, Any]:
    bench.wait_for(lambda: answer_so_far(order) is not None, "an answer")
    return order.answer


def _home(setup: Setup) -> bool:
    setup.bench.refresh_from_db()
    return bool(setup.bench.state.get("home"))
