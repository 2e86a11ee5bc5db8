"""What runs add to a setup as the screens show it."""

from dataclasses import asdict
from typing import Any

from django.db.models import Count, Max

from yoke_server.common.prepared import ASKED, Prepared
from yoke_server.record.models import OPEN_STATES, Run
from yoke_server.record.preflight import is_used, preflight_issues
from yoke_server.record.queries import document_of, open_run, pulled_specimens
from yoke_server.wire.document import FrozenChannel, FrozenSetup
from yoke_server.wire.models import Setup
from yoke_server.wire.naming import next_name

_RUNS = Prepared(
    lambda: Run.objects.filter(setup_id=ASKED).values("setup_id")
    .annotate(count=Count("pk"), last=Max("number")).values_list("count", "last")
)  # fmt: skip


def of_setup(setup: Setup, frozen: FrozenSetup) -> dict[str, Any]:
    """Preflight list, runs, and the name proposed once the setup's specimen was pulled."""
    used = pulled_specimens(setup)
    ((runs, last),) = _RUNS.rows(setup.pk) or [(0, 0)]
    return {
        "gaps": [asdict(i) for i in preflight_issues(setup, frozen.channels, used)],
        "runs": runs,
        "last_run_number": last,
        "next_specimen": next_name(setup.specimen, used) if is_used(setup, used) else "",
    }


def of_lines(
    setups: list[Setup], channels: dict[int, list[FrozenChannel]]
) -> dict[int, dict[str, Any]]:
    """Runs so far, the newest of them, and a channel that shows what it was like."""
    runs = Run.objects.filter(setup__in=setups)
    counts = dict(runs.values("setup_id").annotate(n=Count("pk")).values_list("setup_id", "n"))
    newest = runs.order_by("setup_id", "-number").distinct("setup_id").select_related("revision")
    last = {run.setup_id: run for run in newest}
    return {
        setup.pk: {
            "runs": counts.get(setup.pk, 0),
            "recording": setup.pk in last and last[setup.pk].state in OPEN_STATES,
            "last_run": _line_run(last[setup.pk]) if setup.pk in last else None,
        }
        for setup in setups
    }


def _line_run(run: Run) -> dict[str, Any]:
    channels = document_of(run).channels
    shown = next((c for c in channels if c.quantity == "force"), channels[0])
    return {
        "id": run.pk, "name": run.name, "state": run.state, "started_at": run.started_at,
        "ended_because": run.ended_because, "channel": shown.key, "channel_name": shown.name,
        "unit": shown.unit,
    }  # fmt: skip


def recording_on(bench_id: int) -> str:
    """The run that is being recorded on a bench; empty if none is."""
    run = open_run(bench_id)
    return run.name if run else ""
