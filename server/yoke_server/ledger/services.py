"""Writing the ledger, and undoing what stands in it."""

from typing import Any

from django.db.models import Model

from yoke_server.accounts.actor import Actor
from yoke_server.ledger.models import Entry

Fields = dict[str, Any] | None  # None: the row does not exist


def record(
    actor: Actor | None,
    action: str,
    subject: str,
    subject_id: int,
    *,
    setup_id: int | None = None,
    before: Fields = None,
    after: Fields = None,
) -> Entry:
    """Add an entry; a new deed ends the chance to redo the undone ones."""
    if setup_id and before != after:
        Entry.objects.filter(setup_id=setup_id, undone=True).update(setup=None)
    return Entry.objects.create(
        actor=actor.user if actor else None,
        action=action,
        subject=subject,
        subject_id=subject_id,
        setup_id=setup_id,
        before=before,
        after=after,
    )


def assign(row: Model, changes: dict[str, Any]) -> dict[str, Any]:
    """Set fields of a row, without saving; gives what they were, for the entry."""
    before = {name: getattr(row, name) for name in changes}
    for name, value in changes.items():
        setattr(row, name, value)
    return before


def undoable(setup_id: int, *, undone: bool) -> Entry | None:
    """What Undo (``undone`` False) or Redo (True) would take next."""
    entries = Entry.objects.filter(setup_id=setup_id, undone=undone).exclude(subject="event")
    return entries.order_by("id" if undone else "-id").first()
