"""Hooks of higher applications, called when a run has ended or was corrected."""

import logging
from collections.abc import Callable

from django.db import transaction
from django.dispatch import Signal

from yoke_server.record.models import Run

log = logging.getLogger(__name__)

# Of a run: what would miss it, or "".
holders: list[Callable[[Run], str]] = []

run_changed = Signal()  # sent with ``run`` in the transaction that changed it


def announce_change(run: Run) -> None:
    """Call the hooks; their failure does not undo the run's own change."""
    try:
        with transaction.atomic():
            run_changed.send(Run, run=run)
    except Exception:
        log.exception("After a change of %s", run.name)
