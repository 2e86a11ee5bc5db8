"""What runs add to a setup as the screens show it."""

from django.db.models import Count, Max, Q

from yoke_server.common.db.prepared import ASKED, Prepared
from yoke_server.record.models import OPEN_STATES, Run
from yoke_server.record.preflight import is_used, preflight_issues
from yoke_server.record.queries import document_of, open_run, pulled_specimens
from yoke_server.record.runs import DRY_NUMBERS, next_run_name
from yoke_server.record.schemas import (
    BatchItemOut,
    LastRun,
    LineRunsOut,
    PreflightIssueOut,
    SetupRunsOut,
)
from yoke_server.setups.document import FrozenSetup
from yoke_server.setups.models import Setup
from yoke_server.setups.naming import next_name

_RUNS = Prepared(
    lambda: (
        Run.everything.filter(setup_id=ASKED, number__lt=DRY_NUMBERS)
        .values("setup_id")
        .annotate(count=Count("pk", filter=Q(discarded_at__isnull=True)), last=Max("number"))
        .values_list("count", "last")
    )
)


def runs_of_setup(setup: Setup, frozen: FrozenSetup) -> SetupRunsOut:
    """Preflight list, runs, and the name proposed once the setup's specimen was pulled."""
    used = pulled_specimens(setup)
    ((runs, last),) = _RUNS.rows(setup.pk) or [(0, 0)]
    name = next_run_name(setup, last + 1)
    issues = preflight_issues(setup, frozen, used, name)
    return SetupRunsOut(
        preflight=[PreflightIssueOut.model_validate(i) for i in issues],
        runs=runs,
        next_run_name=name,
        next_specimen=_next_specimen(setup, used) if is_used(setup, used) else "",
        batch=[BatchItemOut(specimen=name, is_done=name in used) for name in setup.batch],
    )


def _next_specimen(setup: Setup, used: set[str]) -> str:
    """The next one of the batch; of a setup without one, or after it, counted on."""
    left = (name for name in setup.batch if name not in used)
    return next(left, None) or next_name(setup.specimen, used)


def runs_of_setups(setups: list[Setup]) -> dict[int, LineRunsOut]:
    """Runs so far, the newest of them, and a channel that shows what it was like."""
    runs = Run.objects.filter(setup__in=setups, is_dry=False)
    counts = dict(runs.values("setup_id").annotate(n=Count("pk")).values_list("setup_id", "n"))
    newest = runs.order_by("setup_id", "-number").distinct("setup_id").select_related("revision")
    last = {run.setup_id: run for run in newest}
    return {
        setup.pk: LineRunsOut(
            runs=counts[setup.pk],
            recording=last[setup.pk].state in OPEN_STATES,
            last_run=_last_run(last[setup.pk]),
        )
        for setup in setups
        if setup.pk in last
    }


def _last_run(run: Run) -> LastRun:
    channels = document_of(run).channels
    shown = next((c for c in channels if c.quantity == "force"), channels[0])
    return LastRun(
        id=run.pk,
        name=run.name,
        state=run.state,
        started_at=run.started_at,
        ended_because=run.ended_because,
        channel=shown.key,
        channel_name=shown.name,
        unit=shown.unit,
    )


def recording_on(bench_id: int) -> str:
    """The run that is being recorded on a bench; empty if none is."""
    run = open_run(bench_id)
    return run.name if run else ""
