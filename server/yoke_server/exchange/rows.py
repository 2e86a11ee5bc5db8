"""A stream of a run as rows: time, then its channels in the units that people read."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.record.models import OPEN_STATES, Layout, Run, Stream
from yoke_server.record.queries import StreamTimes
from yoke_server.record.readings.definitions import RunReadings, readings_of
from yoke_server.record.readings.stored import (
    complete_readings,
    kept_rows_of,
    kept_times,
    measured_stream,
    rows_of,
)
from yoke_server.setups.readable import ReadableChannel

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Exported:
    """What is written of a stream of a run: its channels, and those computed at its samples."""

    readings: RunReadings
    stream: Stream
    times: StreamTimes
    channels: list[ReadableChannel]
    is_main: bool = True  # of those that its device has in the run

    @property
    def run(self) -> Run:
        return self.readings.run

    @property
    def file_name(self) -> str:
        rule = "" if self.is_main else f"_{self.stream.rule}"
        return f"{self.run.name}_{self.stream.device_label}{rule}"


def exported(run_id: int, stream_id: int) -> Exported:
    """Raises a 409 problem for a run that is still being recorded, or computed."""
    streams = Stream.objects.select_related("run__revision", "run__setup__project")
    stream = streams.get(pk=stream_id, run_id=run_id)
    run = stream.run
    if run.state in OPEN_STATES:
        raise Problem(
            409,
            f"{run.name} is still being recorded.",
            code=ProblemType.BEING_RECORDED,
            hint="Stop it first.",
        )
    readings = readings_of(run)
    times = kept_times(readings, stream)
    if times.stream != measured_stream(run, stream.device_label):
        measured = [c for c in readings.channels if c.key in times.keys]
        return Exported(readings, stream, times, measured, is_main=False)
    readable = [c for c in readings.channels if c.measured or not readings.problem(c.key)]
    found = [c for c in readable if readings.device(c.key) == stream.device_label]
    for channel in found:
        complete_readings(readings, channel.key)
    return Exported(readings, stream, times, found)


def header_lines(of: Exported) -> list[str]:
    """Where the numbers come from, a fact a line."""
    run, stream = of.run, of.stream
    lines = [
        f"{run.setup.project.name}, {run.setup.name}, {run.name}",
        f"setup version {run.revision.number}, started {run.started_at:%Y-%m-%dT%H:%M:%SZ}",
        f"{stream.device_label}: {_how_many(stream)}, time in s",
        f"seal of the run {run.seal}",
    ]
    lines += [_channel_line(of.readings, channel) for channel in of.channels]
    gaps = [f"{a:.6f} to {b:.6f} s" for a, b in of.times.gaps]
    return [*lines, *([f"samples are missing from {', '.join(gaps)}"] if gaps else [])]


def _how_many(stream: Stream) -> str:
    if stream.layout == Layout.TIMED:
        return f"{stream.samples} {stream.rule.replace('_', ' ')}, each with its time"
    return f"{stream.samples} samples at {stream.rate_hz:g} Hz"


def _channel_line(readings: RunReadings, channel: ReadableChannel) -> str:
    """Where a channel's readings come from, and what was corrected of them."""
    if sensor := channel.measured:
        origin = f"{sensor.sensor_name} {sensor.sensor_serial}"
    else:
        origin = f"computed, {readings.formula(channel.key)}"
    said = [f"{c.title.lower()} {c.said(channel)}" for c in readings.corrections_of(channel.key)]
    return f"{channel.name}: {origin}" + (f"; corrected: {', '.join(said)}" if said else "")


def columns(of: Exported) -> "Iterator[list[Array]]":
    """Seconds of the run, then each channel's readings; not finite where they clipped."""
    import numpy as np

    if not of.is_main:
        for seconds, parts in kept_rows_of(of.readings, of.times, [c.key for c in of.channels]):
            yield [seconds, *(c.shown(r) for r, c in zip(parts, of.channels, strict=True))]
        return
    for first, readings in rows_of(of.readings, [c.key for c in of.channels]):
        seconds = of.times.seconds_of(np.arange(first, first + readings.shape[1]))
        yield [seconds, *(c.shown(r) for r, c in zip(readings, of.channels, strict=True))]
