"""Starting, stopping and putting right of runs; orders to a bench."""

from collections.abc import Collection, Mapping, Sequence
from types import MappingProxyType
from typing import Any

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.bench.models import Bench, Order
from yoke_server.bench.services import require_yoke, send
from yoke_server.bench.stops import GivenStop, request_stop
from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.orders.runs import MarkRun, ReleaseStop, ResetPeaks, ReturnHome, StartRun
from yoke_server.kinds.spec import plain_spec
from yoke_server.ledger.services import Change, record
from yoke_server.record.commands import ORDERS, SAID, Command
from yoke_server.record.hooks import announce_change
from yoke_server.record.models import OPEN_STATES, Correction, Run
from yoke_server.record.preflight import PreflightIssue, require_startable
from yoke_server.record.queries import SPECIMEN, open_run, specimen_of
from yoke_server.setups.document import read_document
from yoke_server.setups.models import Setup
from yoke_server.setups.revisions.differences import differences

NO_ANSWERS: Mapping[str, str] = MappingProxyType({})


@transaction.atomic
def order_run(
    actor: Actor,
    setup_id: int,
    *,
    version: int,
    pull: bool = True,
    is_dry: bool = False,
    accepted: Collection[str] | None = None,
    answers: Mapping[str, str] = NO_ANSWERS,
) -> Order:
    """Have a run begun; with ``pull`` the actuator ramps once recording runs. Of one that
    ``is_dry`` all is played, and nothing kept.

    ``version``: of the setup as whoever starts it saw it; a 409 problem says what has changed.
    ``accepted``: codes of the open preflight issues that were shown, where some were; another one
    is a 409 problem. ``answers``: to what the setup asks for; a 422 problem names what is left.

    The recorder makes the run, with its first samples, and answers with its number; an order
    that it does not carry out leaves none behind.
    """
    require(actor, "drive the bench")
    setup = Setup.objects.select_for_update(of=("self",)).select_related("bench").get(pk=setup_id)
    require_yoke(actor, setup.bench)
    _require_seen(setup, version)
    taken = _taken(require_startable(setup), accepted)
    answered = {} if is_dry else _answered(setup, answers)
    revision = setup.revisions.get(number=setup.version)
    record(actor, f"Ordered a {'dry ' if is_dry else ''}run of {setup.name}")
    wanted = StartRun(
        revision=revision.pk,
        pull=pull,
        is_dry=is_dry,
        operator=actor.user.pk,
        accepted=taken,
        answers=answered,
    )
    return send(actor, setup.bench, wanted)


def _taken(issues: Sequence[PreflightIssue], accepted: Collection[str] | None) -> list[str]:
    """What is accepted with the start, in words; a 409 problem of what its starter did not see."""
    for issue in issues:
        if accepted is not None and issue.code not in accepted:
            raise Problem(
                409,
                issue.text,
                code=ProblemType.PREFLIGHT,
                field=issue.code,
                hint=issue.hint or "Look at it, then start again.",
            )
    return [issue.text for issue in issues]


def _answered(setup: Setup, answers: Mapping[str, str]) -> dict[str, str]:
    found = {name: answers.get(name, "").strip() for name in setup.asked}
    if left := next((name for name, answer in found.items() if not answer), None):
        raise Problem(422, f"{left} is asked for at the start.", field=left, hint="Fill it in.")
    return found


MEASURED = frozenset({"zero", "tare", "shunt expected", "shunt measured"})
MAX_TOLD = 3


def _require_seen(setup: Setup, version: int) -> None:
    """What a run does must be what its starter saw; what was measured since is no matter."""
    if version == setup.version:
        return
    seen = setup.revisions.filter(number=version).first()
    now = setup.revisions.get(number=setup.version)
    if seen is None:
        raise Problem(
            409,
            f"{setup.name} has no version {version}.",
            code=ProblemType.NOT_FOUND,
            field="version",
        )
    found = differences(read_document(seen.document), read_document(now.document))
    changed = [d for d in found if d.field not in MEASURED]
    if not changed:
        return
    said = "; ".join(
        f"{d.subject} {d.field}".strip() + f" {d.before or 'none'} → {d.after or 'none'}"
        for d in changed[:MAX_TOLD]
    )
    more = f" and {len(changed) - MAX_TOLD} more" if len(changed) > MAX_TOLD else ""
    raise Problem(
        409,
        f"{setup.name} was changed since you looked: {said}{more}.",
        code=ProblemType.CHANGED_MEANWHILE,
        field="version",
        hint="Look at it again, then start.",
    )


def request_stop_of(actor: Actor, run_id: int) -> GivenStop:
    """Have a run and what it moves stopped; the run is kept."""
    bench_id = Run.objects.values_list("setup__bench_id", flat=True).get(pk=run_id)
    return request_stop(actor, bench_id, run=run_id)


@transaction.atomic
def order_command(actor: Actor, run_id: int, command: Command) -> Order:
    """Have a run that is recorded pause, go on, hold, skip a leg or end gently."""
    require(actor, "drive the bench")
    run = _recorded_run(run_id)
    require_yoke(actor, run.setup.bench)
    record(actor, f"{SAID[command]} {run.name}")
    wanted = ORDERS[command].about(run.pk, actor.user.pk)
    return send(actor, run.setup.bench, wanted)


@transaction.atomic
def order_marker(actor: Actor, run_id: int, text: str) -> Order:
    """Name this instant of a run that is recorded; whoever drives benches may, without the yoke."""
    require(actor, "drive the bench")
    run = _recorded_run(run_id)
    return send(actor, run.setup.bench, MarkRun(run=run.pk, text=text, operator=actor.user.pk))


def _recorded_run(run_id: int) -> Run:
    run = Run.objects.select_related("setup__bench").get(pk=run_id)
    if run.state not in OPEN_STATES:
        raise Problem(
            409,
            f"{run.name} is no longer recorded.",
            code=ProblemType.CHANGED_MEANWHILE,
            hint="Look at it in Derive.",
        )
    return run


@transaction.atomic
def order_release(actor: Actor, bench_id: int) -> Order:
    """Have things move again after an emergency stop."""
    require(actor, "drive the bench")
    bench = Bench.objects.get(pk=bench_id)
    require_yoke(actor, bench)
    record(actor, f"Released the emergency stop of {bench.name}")
    return send(actor, bench, ReleaseStop())


@transaction.atomic
def order_return(actor: Actor, bench_id: int) -> Order:
    """Have the actuator driven home; not while something is recorded."""
    require(actor, "drive the bench")
    bench = Bench.objects.get(pk=bench_id)
    require_yoke(actor, bench)
    if run := open_run(bench_id):
        raise Problem(
            409,
            f"{run.name} is being recorded.",
            code=ProblemType.BEING_RECORDED,
            hint="Stop it first.",
        )
    record(actor, f"Ordered return on {bench.name}")
    return send(actor, bench, ReturnHome())


@transaction.atomic
def order_reset_of_peaks(actor: Actor, bench_id: int, channels: list[str]) -> Order:
    """Have lowest and highest begin anew on every screen; of all channels if none are named."""
    require(actor, "drive the bench")
    bench = Bench.objects.get(pk=bench_id)
    require_yoke(actor, bench)
    record(actor, f"Reset the peaks of {len(channels) or 'all'} channels on {bench.name}")
    return send(actor, bench, ResetPeaks(channels=channels))


@transaction.atomic
def change_run(actor: Actor, run_id: int, *, reason: str = "", **changes: Any) -> Run:
    """Put a run's specimen or notes right; samples and the setup of its time stay."""
    require(actor, "change the specimen")
    run = Run.objects.select_for_update().get(pk=run_id)
    now = {**specimen_of(run), "notes": run.notes}
    changes = {k: plain_spec(v) for k, v in changes.items() if now[k] != plain_spec(v)}
    if not changes:
        return run
    if "notes" in changes:
        run.notes = changes["notes"]
        run.save(update_fields=["notes"])
    if put_right := {k: v for k, v in changes.items() if k in SPECIMEN}:
        if run.state in OPEN_STATES and not reason:
            raise Problem(
                422,
                f"{run.name} is being recorded: a correction of its specimen needs a reason.",
                field="reason",
                hint="Say why, or wait until it has ended.",
            )
        Correction.objects.create(run=run, actor=actor.user, reason=reason, changes=put_right)
        announce_change(run)
    before = {k: now[k] for k in changes}
    record(actor, f"Changed {run.name}", changes=[Change("run", run.pk, before, changes)])
    notify(NEWS, kind="run", setup=run.setup_id, run=run.pk)
    return run
