"""Rows of runs and streams, whoever makes them: the recorder, or a file that is imported."""

from typing import Any

from django.db.models import Max

from yoke_server.bench.models import Device, SignalKind
from yoke_server.kinds.keep_rules.base import KeepRule
from yoke_server.record.models import Layout, Run, Stream, StreamChannel
from yoke_server.setups.document import FrozenChannel
from yoke_server.setups.models import Setup, SetupRevision
from yoke_server.setups.naming import run_name

DRY_NUMBERS = 1_000_000_000


def next_number(setup: Setup, *, is_dry: bool = False) -> int:
    """The number of a new run of a setup; that of a discarded one is not given again, and dry
    runs are counted by themselves, far beyond the others."""
    first = DRY_NUMBERS if is_dry else 0
    runs = Run.everything.filter(setup=setup, is_dry=is_dry, number__gte=first)
    if not is_dry:
        runs = runs.filter(number__lt=DRY_NUMBERS)
    return max(first, runs.aggregate(m=Max("number"))["m"] or 0) + 1


def next_run_name(setup: Setup, number: int) -> str:
    return run_name(
        setup.run_name_pattern,
        specimen=setup.specimen,
        number=number,
        setup=setup.name,
        project=setup.project.name,
    )


def sample_bytes_of(channels: list[FrozenChannel]) -> int:
    """Of each sample of a stream with these channels."""
    return max(SignalKind(c.signal).sample_bytes for c in channels)


def create_run(revision: SetupRevision, *, number: int, name: str, **fields: Any) -> Run:
    """A run of a setup as it stood at a revision; its streams follow (`add_stream`)."""
    return Run.objects.create(
        setup=revision.setup, revision=revision, number=number, name=name, **fields
    )


def layout_of(rule: KeepRule) -> Layout:
    """Of the streams that a keep rule fills."""
    return Layout.TIMED if rule.is_timed else Layout.UNIFORM


def planes_of(layout: Layout, channels: list[FrozenChannel]) -> tuple[int, int]:
    """How many arrays each block of a stream has, and the bytes of a value in them.

    Behind the channels of a timed one stand its times: seconds of the run, which float32 would
    not hold.
    """
    if layout == Layout.TIMED:
        return len(channels) + 1, 8
    return len(channels), sample_bytes_of(channels)


def add_stream(
    run: Run,
    label: str,
    rate_hz: float,
    channels: list[FrozenChannel],
    layout: Layout = Layout.UNIFORM,
    **place: Any,
) -> Stream:
    """A stream of a run, with its channels in their places; a label may be no device's."""
    device = Device.objects.filter(bench_id=run.setup.bench_id, label=label).first()
    stream = Stream.objects.create(
        run=run,
        device=device,
        device_label=label,
        rate_hz=rate_hz,
        layout=layout,
        sample_bytes=planes_of(layout, channels)[1],
        **place,
    )
    StreamChannel.objects.bulk_create(
        StreamChannel(stream=stream, position=i, channel_key=c.key, signal=c.signal)
        for i, c in enumerate(channels)
    )
    return stream
