"""Reads of runs worth a name."""

from yoke_server.record.models import OPEN_STATES, Run, Stream

MOST_REMEMBERED = 256
_sealed: dict[int, Stream] = {}


def open_run(bench_id: int) -> Run | None:
    """The run that is starting or recording on a bench."""
    return Run.objects.filter(setup__bench_id=bench_id, state__in=OPEN_STATES).first()


def stream_to_view(run_id: int) -> Stream | None:
    """A run's stream, with the run and the samples so far.

    A sealed run never changes, so its row is remembered: a plot that zooms asks for it often.
    """
    if found := _sealed.get(run_id):
        return found
    stream = Stream.objects.filter(run_id=run_id).select_related("run").first()
    if stream is None:
        return None
    if stream.run.seal:
        if len(_sealed) >= MOST_REMEMBERED:
            _sealed.clear()
        _sealed[run_id] = stream
    elif last := stream.blocks.order_by("-sequence").only("first_sample", "samples").first():
        stream.samples = last.first_sample + last.samples
    return stream
