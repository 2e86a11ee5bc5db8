"""Reads of runs worth a name."""

from yoke_server.record.models import OPEN_STATES, Run


def open_run(bench_id: int) -> Run | None:
    """The run that is starting or recording on a bench."""
    return Run.objects.filter(setup__bench_id=bench_id, state__in=OPEN_STATES).first()
