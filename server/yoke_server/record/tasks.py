"""Work for the worker process: computed channels of runs."""

from yoke_server.accounts.actor import Actor
from yoke_server.accounts.rights import require
from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.tasks.worker import order, task
from yoke_server.record.models import OPEN_STATES, Run, Stream
from yoke_server.record.readings.definitions import RunReadings, readings_of

NOBODY = 0  # who asks for what follows from a run


def make(run_id: int, first: str = "") -> None:
    """Make what is missing of a run's computed channels, one before all others."""
    from yoke_server.record.readings.build import build_all

    run = Run.objects.select_related("revision", "setup").get(pk=run_id)
    if run.state in OPEN_STATES:
        return
    readings = readings_of(run)
    if first and readings.channel(first):
        build_all(run, readings, [first])
    build_all(run, readings)


make_readings = task(seconds=600)(make)


def order_readings(run: Run, person: int = NOBODY, first: str = "") -> None:
    """Have the worker make a run's computed channels, where it has some."""
    if run.state not in OPEN_STATES and has_computed(readings_of(run)):
        order(make_readings, f"readings of {run.pk}", person, run_id=run.pk, first=first)


def cancel_readings(actor: Actor, run: Run) -> None:
    """Take away what is being computed: whoever computes it sees that, and ends."""
    require(actor, "wire channels")
    if run.state not in OPEN_STATES:
        Stream.everything.filter(run=run, home__isnull=False, complete=False).delete()
    notify(NEWS, kind="readings", setup=run.setup_id, run=run.pk)


def has_computed(readings: RunReadings) -> bool:
    """Whether any channel of a run is read from a computed stream."""
    return any(readings.is_computed(c.key) for c in readings.channels)
