"""Corrections of recorded runs: added, switched, moved and taken away, each for all its runs."""

from collections.abc import Callable, Iterable, Sequence

from django.db import transaction

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.kinds.chain import chain_of
from yoke_server.kinds.corrections import MAX_CORRECTIONS
from yoke_server.kinds.corrections.base import RunCorrection
from yoke_server.ledger.services import Change, record
from yoke_server.record.hooks import announce_change
from yoke_server.record.models import OPEN_STATES, Correction, Run
from yoke_server.record.readings.definitions import (
    CORRECTIONS,
    RunReadings,
    corrections_of,
    readings_of,
)
from yoke_server.setups.models import new_key

Corrections = list[RunCorrection]


def proposed(run: Run, correction: RunCorrection) -> RunReadings:
    """How a run would be read with one correction more; raises a problem where it cannot be."""
    readings = readings_of(run)
    if run.state in OPEN_STATES:
        raise Problem(
            409,
            f"{run.name} is still being recorded.",
            code=ProblemType.BEING_RECORDED,
            hint="Stop it first.",
        )
    for key in correction.channels:
        _require_fitting(readings, key, correction)
    found = RunReadings(run, readings.recorded, [*readings.corrections, correction])
    for key in correction.channels:
        if channel := found.measured.get(key):
            chain_of(channel)  # raises ScalingError
        if problem := found.problem(key):
            raise Problem(422, f"{run.name}: {problem}", field="correction")
    return found


def _require_fitting(readings: RunReadings, key: str, correction: RunCorrection) -> None:
    channel, name = readings.channel(key), readings.run.name
    if channel is None:
        raise Problem(
            422,
            f"{name} has not all channels that the correction names.",
            field="channels",
            hint=f"Leave {name} out, or choose channels that each of the runs has.",
        )
    if not (device := readings.device(key)):
        raise Problem(422, f"{name}: {readings.problem(key)}", field="channels")
    if lack := correction.lacks(channel, readings.rate_hz(device)):
        raise Problem(422, f"{name}: {lack.text}", field="correction", hint=lack.hint)
    users = [c.name for c in readings.setup.computed if key in c.channels]
    if channel.measured is None and users:
        raise Problem(
            422,
            f"{', '.join(users)} is computed of {channel.name}, by its formula.",
            field="channels",
            hint="Correct the measured channels instead.",
        )


@transaction.atomic
def add_correction(
    actor: Actor,
    setup_id: int,
    runs: Sequence[int],
    correction: RunCorrection,
    reason: str,
) -> str:
    """Correct some runs of a setup together, all or none; gives the correction's key."""
    require(actor, "change scaling")
    correction = correction.model_copy(update={"key": new_key()})
    rows = _locked(setup_id, runs)
    for run in rows:
        proposed(run, correction)
        if len(corrections_of(run)) >= MAX_CORRECTIONS:
            raise Problem(
                409,
                f"{run.name} has {MAX_CORRECTIONS} corrections.",
                code=ProblemType.LIMIT_REACHED,
                hint="Take one away first.",
            )
    _keep(actor, rows, lambda before: [*before, correction], f"{correction.title} of", reason)
    return correction.key


@transaction.atomic
def change_correction(
    actor: Actor,
    setup_id: int,
    key: str,
    *,
    reason: str = "",
    on: bool | None = None,
    name: str | None = None,
    position: int | None = None,
) -> None:
    """Switch a correction, name it, or move it in its order, in all runs that have it."""
    require(actor, "change scaling")

    def changed(before: Corrections) -> Corrections:
        found = {c.key: c for c in before}[key]
        others = [c for c in before if c.key != key]
        update = {
            "on": found.on if on is None else on,
            "name": found.name if name is None else name,
        }
        place = before.index(found) if position is None else min(position, len(others))
        return [*others[:place], found.model_copy(update=update), *others[place:]]

    _keep(actor, _locked_with(setup_id, key), changed, "Changed a correction of", reason)


@transaction.atomic
def remove_correction(actor: Actor, setup_id: int, key: str, reason: str = "") -> None:
    """Take a correction off all runs that have it."""
    require(actor, "change scaling")

    def without(before: Corrections) -> Corrections:
        return [c for c in before if c.key != key]

    _keep(actor, _locked_with(setup_id, key), without, "Took a correction off", reason)


def _locked(setup_id: int, runs: Iterable[int]) -> list[Run]:
    wanted = sorted(set(runs))
    rows = Run.objects.select_for_update(of=("self",)).select_related("revision", "setup")
    found = list(rows.filter(pk__in=wanted, setup_id=setup_id).order_by("pk"))
    if len(found) < len(wanted):
        raise Problem(
            422,
            "Some of these runs are of another setup, whose channels are others.",
            field="runs",
            hint="Correct the runs of one setup at a time.",
        )
    return found


def _locked_with(setup_id: int, key: str) -> list[Run]:
    """The runs of a setup that have a correction; a 404 problem where none has."""
    ids = Run.objects.filter(setup_id=setup_id, corrections__changes__has_key=CORRECTIONS)
    rows = _locked(setup_id, ids.values_list("pk", flat=True))
    found = [run for run in rows if any(c.key == key for c in corrections_of(run))]
    if not found:
        raise Problem(404, "There is no such correction.", hint="Look again: somebody removed it.")
    return found


def _keep(
    actor: Actor,
    runs: Sequence[Run],
    change: Callable[[Corrections], Corrections],
    action: str,
    reason: str,
) -> None:
    """The new list of each run, as a row more; all that depends on it is told."""
    changes = []
    for run in runs:
        before = corrections_of(run)
        after = change(before)
        if after == before:
            continue
        plain = [c.model_dump(mode="json") for c in after]
        Correction.objects.create(
            run=run, actor=actor.user, reason=reason, changes={CORRECTIONS: plain}
        )
        was = [c.model_dump(mode="json") for c in before]
        changes.append(Change("run", run.pk, {CORRECTIONS: was}, {CORRECTIONS: plain}))
    if not changes:
        return
    names = runs[0].name if len(runs) == 1 else f"{len(runs)} runs"
    record(actor, f"{action} {names}: {reason}" if reason else f"{action} {names}", changes=changes)
    for run in Run.objects.select_related("revision", "setup").filter(pk__in=[r.pk for r in runs]):
        announce_change(run)
        notify(NEWS, kind="run", setup=run.setup_id, run=run.pk)
