"""Taking the last action on a setup back, or doing it again."""

from collections import defaultdict
from collections.abc import Sequence
from typing import Any

from django.db import transaction
from django.db.models import Model

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import Right, require
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.ledger.services import Change, Fields, record, undoable
from yoke_server.setups.conditioning import CONDITIONING, require_yoke_in_use
from yoke_server.setups.document import SCALING_FIELDS
from yoke_server.setups.models import Setup
from yoke_server.setups.services import MEASURED, PROGRAMME, ROWS, keep_revision, lock, plain

MISSING = object()  # a field that rows had when the change was made


@transaction.atomic
def undo(actor: Actor, setup_id: int, *, redo: bool = False) -> str:
    """Take back (or do again) the last change; says which.

    Raises a 409 problem where there is none, or somebody changed the same since.
    """
    setup = lock(setup_id)
    entry = undoable(setup_id, undone=redo)
    if not entry:
        raise Problem(
            409,
            "There is nothing to redo." if redo else "There is nothing to undo.",
            code=ProblemType.NOTHING_TO_DO,
        )
    changes = [Change(**c) for c in entry.changes]
    require(actor, _right_to_undo(changes))
    if any(map(_touches_conditioning, changes)):
        require_yoke_in_use(actor, setup)
    if not redo:
        changes = [c.inverted() for c in reversed(changes)]
    if not _bring_in_force([c for c in changes if c.subject in ROWS]):
        raise Problem(
            409,
            f"“{entry.action}” cannot be taken back: somebody changed the same since.",
            code=ProblemType.CHANGED_MEANWHILE,
            hint="Look at what stands there now and change it by hand.",
        )
    _measure_again(actor, setup, [c for c in changes if c.subject in MEASURED])
    entry.undone = not redo
    entry.save(update_fields=["undone"])
    action = f"{'Redid' if redo else 'Undid'}: {entry.action}"
    record(actor, action)
    setup.refresh_from_db()
    keep_revision(actor, setup, action)
    return entry.action


def _right_to_undo(changes: Sequence[Change]) -> Right:
    """Taking back a scaling is changing it; a sensor wired or taken off is wiring."""
    fields = {f for c in changes for f in set(c.before or ()) & set(c.after or ())}
    return "change scaling" if fields & SCALING_FIELDS else "wire channels"


def _touches_conditioning(change: Change) -> bool:
    """Whether undoing it changes what a run measures or does: a sensor comes or goes, or a
    setting, a rate, motion or stops differ."""
    if change.subject not in ROWS:
        return False
    fields = set(change.before or ()) & set(change.after or ())
    sets = CONDITIONING | PROGRAMME | {"input_id"}
    return not fields or change.subject == "rate" or bool(fields & sets)


def _measure_again(actor: Actor, setup: Setup, changes: Sequence[Change]) -> None:
    """Facts are added, never taken away: the one that was in force before is added anew."""
    for change in changes:
        MEASURED[change.subject]._default_manager.create(
            setup=setup, channel_key=change.id, actor=actor.user, **(change.after or {})
        )


def _bring_in_force(changes: Sequence[Change]) -> bool:
    """Have ``after`` stand in each row where ``before`` does; nothing, and False, if it does not
    somewhere."""
    of_kind: dict[str, list[Change]] = defaultdict(list)
    for change in changes:
        of_kind[change.subject].append(change)
    kinds = [_Rows(ROWS[subject], found) for subject, found in of_kind.items()]
    if not all(rows.take(change) for rows in kinds for change in rows.changes):
        return False
    for rows in kinds:
        rows.save()
    return True


class _Rows:
    """The rows of one kind that are changed, as they stand and as they shall."""

    def __init__(self, model: type[Model], changes: list[Change]) -> None:
        self.changes = changes
        self._model = model
        rows = model._default_manager.in_bulk({c.id for c in changes})
        self._were: dict[Any, Fields] = {pk: plain(row) for pk, row in rows.items()}
        self._now = dict(self._were)

    def take(self, change: Change) -> bool:
        """False where something else stands there than the change began with."""
        now, expected = self._now.get(change.id), change.before
        if (now is None) != (expected is None):
            return False
        if any((now or {}).get(k, MISSING) != v for k, v in (expected or {}).items()):
            return False
        self._now[change.id] = None if change.after is None else {**(now or {}), **change.after}
        return True

    def save(self) -> None:
        """Gone, come and changed, each in one go where that can be."""
        rows = self._model._default_manager
        rows.filter(pk__in=[pk for pk, now in self._now.items() if now is None]).delete()
        fresh = [now for pk, now in self._now.items() if now and self._were.get(pk) is None]
        rows.bulk_create(self._model(**fields) for fields in fresh)
        for pk, now in self._now.items():
            were = self._were.get(pk)
            if now and were and (differ := {k: v for k, v in now.items() if were.get(k) != v}):
                rows.filter(pk=pk).update(**differ)
