"""Work for the worker process."""

from contextlib import suppress

from django.db import transaction
from procrastinate.exceptions import AlreadyEnqueued

from yoke_server.common.tasks.worker import task
from yoke_server.derive.computing import derive_stale


@task(seconds=600)
def results_of_setup(setup_id: int, first: int | None = None) -> None:
    """Compute stale results of a setup; at most one such task waits per setup."""
    derive_stale(setup_id, first)


def order_results(setup_id: int, first: int | None = None) -> None:
    """Have the worker compute a setup's stale results, ``first`` run first."""
    waiting = results_of_setup.configure(queueing_lock=f"results of {setup_id}")
    # One that waits already will find this run's results stale too.
    with suppress(AlreadyEnqueued), transaction.atomic():
        waiting.defer(setup_id=setup_id, first=first)
