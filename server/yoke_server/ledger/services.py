"""Writing ledger entries, and finding the one to undo."""

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass

from django.db.models import Model, QuerySet

from yoke_server.accounts.actor import Actor
from yoke_server.common.db.prepared import ASKED, Prepared
from yoke_server.ledger.models import Entry

Fields = Mapping[str, object] | None  # None: the row does not exist


@dataclass(frozen=True, slots=True)
class Change:
    """Fields of one row before and after an action."""

    subject: str
    id: int | str
    before: Fields
    after: Fields

    def inverted(self) -> "Change":
        return Change(self.subject, self.id, self.after, self.before)


def record(
    actor: Actor | None,
    action: str,
    *,
    setup_id: int | None = None,
    changes: Sequence[Change] = (),
) -> Entry:
    """Add an entry; a new action on a setup ends the chance to redo the undone ones."""
    if setup_id and changes:
        Entry.objects.filter(setup_id=setup_id, undone=True).update(setup_id=None)
    return Entry.objects.create(
        actor=actor.user if actor else None,
        action=action[:120],
        setup_id=setup_id,
        changes=[asdict(c) for c in changes],
    )


def assign(row: Model, changes: Mapping[str, object]) -> dict[str, object]:
    """Set fields of a row, without saving; gives what they were, for the entry."""
    before = {name: getattr(row, name) for name in changes}
    for name, value in changes.items():
        setattr(row, name, value)
    return before


def _in_turn(setup_id: int, undone: bool) -> QuerySet[Entry]:
    entries = Entry.objects.filter(setup_id=setup_id, undone=undone).exclude(changes=[])
    return entries.order_by("id" if undone else "-id")


def undoable(setup_id: int, *, undone: bool) -> Entry | None:
    """What Undo (``undone`` False) or Redo (True) would take next."""
    return _in_turn(setup_id, undone).first()


def _words_in_turn(undone: bool) -> Prepared:
    return Prepared(lambda: _in_turn(ASKED, undone).values_list("action")[:1])


_UNDO, _REDO = _words_in_turn(False), _words_in_turn(True)


def undo_and_redo(setup_id: int) -> tuple[str, str]:
    """What both would take next, in words; empty where there is nothing."""
    undo, redo = ("".join(a for (a,) in words.rows(setup_id)) for words in (_UNDO, _REDO))
    return undo, redo
