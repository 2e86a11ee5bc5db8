"""What runs add to a setup as the screens show it."""

from collections.abc import Callable
from dataclasses import asdict
from typing import Any

from django.db.models import Max

from yoke_server.record.models import RunState
from yoke_server.record.preflight import gaps
from yoke_server.record.queries import open_run, specimens_of
from yoke_server.wire.document import FrozenSetup
from yoke_server.wire.models import Setup
from yoke_server.wire.naming import next_name


def _gaps(setup: Setup, frozen: FrozenSetup) -> list[dict[str, Any]]:
    return [asdict(g) for g in gaps(setup, frozen.channels)]


def _runs(setup: Setup, frozen: FrozenSetup) -> int:
    return setup.runs.count()


def _last_number(setup: Setup, frozen: FrozenSetup) -> int:
    return int(setup.runs.aggregate(m=Max("number"))["m"] or 0)


def _next_specimen(setup: Setup, frozen: FrozenSetup) -> str:
    """The name that is proposed once the setup's specimen was pulled; empty before that."""
    kept = setup.runs.filter(state=RunState.KEPT)
    used = specimens_of(kept)
    return next_name(setup.specimen, used) if setup.specimen in used else ""


def recording_on(bench_id: int) -> str:
    """The run that is being recorded on a bench; empty if none is."""
    run = open_run(bench_id)
    return run.name if run else ""


OF_SETUP: dict[str, Callable[[Setup, FrozenSetup], Any]] = {
    "gaps": _gaps,
    "runs": _runs,
    "last_run_number": _last_number,
    "next_specimen": _next_specimen,
}
OF_LINE: dict[str, Callable[[Setup], Any]] = {
    "runs": lambda setup: setup.runs.count(),
    "last_run": lambda setup: setup.runs.aggregate(m=Max("started_at"))["m"],
}
