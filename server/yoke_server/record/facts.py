"""What runs add to a setup as the screens show it."""

from dataclasses import asdict
from typing import Any

from django.db.models import Max

from yoke_server.record.preflight import gaps, pulled_specimens
from yoke_server.record.queries import open_run
from yoke_server.wire.document import FrozenSetup
from yoke_server.wire.models import Setup
from yoke_server.wire.naming import next_name


def of_setup(setup: Setup, frozen: FrozenSetup) -> dict[str, Any]:
    """Preflight list, runs, and the name proposed once the setup's specimen was pulled."""
    used = pulled_specimens(setup)
    return {
        "gaps": [asdict(g) for g in gaps(setup, frozen.channels, used)],
        "runs": setup.runs.count(),
        "last_run_number": setup.runs.aggregate(m=Max("number"))["m"] or 0,
        "next_specimen": next_name(setup.specimen, used) if setup.specimen in used else "",
    }


def of_line(setup: Setup) -> dict[str, Any]:
    return {
        "runs": setup.runs.count(),
        "last_run": setup.runs.aggregate(m=Max("started_at"))["m"],
    }


def recording_on(bench_id: int) -> str:
    """The run that is being recorded on a bench; empty if none is."""
    run = open_run(bench_id)
    return run.name if run else ""
