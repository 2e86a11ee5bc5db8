"""A stream of a run as rows: time, then its channels in the units that people read."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.common.units import from_si
from yoke_server.derive.inputs import channel_of, in_pieces
from yoke_server.record.models import OPEN_STATES, Run, Stream
from yoke_server.record.queries import StreamTimes, document_of, times_of
from yoke_server.setups.document import FrozenChannel

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Array = NDArray[np.float64]

ROWS_AT_ONCE = 65_536


@dataclass(frozen=True, slots=True)
class Exported:
    """What is written of a stream of a run."""

    run: Run
    stream: Stream
    times: StreamTimes
    channels: list[FrozenChannel]

    @property
    def file_name(self) -> str:
        return f"{self.run.name}_{self.stream.device_label}"


def exported(run_id: int, stream_id: int) -> Exported:
    """Raises a 409 problem for a run that is still being recorded."""
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
    times, setup = times_of(run, stream), document_of(run)
    return Exported(run, stream, times, [channel_of(setup, key) for key in times.keys])


def header_lines(of: Exported) -> list[str]:
    """Where the numbers come from, a fact a line."""
    run, stream = of.run, of.stream
    lines = [
        f"{run.setup.project.name}, {run.setup.name}, {run.name}",
        f"setup version {run.revision.number}, started {run.started_at:%Y-%m-%dT%H:%M:%SZ}",
        f"{stream.device_label}: {stream.samples} samples at {stream.rate_hz:g} Hz, time in s",
        f"seal of the run {run.seal}",
    ]
    for channel in of.channels:
        lines.append(f"{channel.name}: {channel.sensor_name} {channel.sensor_serial}")
    gaps = [f"{a:.6f} to {b:.6f} s" for a, b in of.times.gaps]
    return [*lines, *([f"samples are missing from {', '.join(gaps)}"] if gaps else [])]


def columns(of: Exported) -> "Iterator[list[Array]]":
    """Seconds of the run, then each channel's readings; not finite where they clipped."""
    import numpy as np

    waiting: list[list[Any]] = []
    count = 0
    for first, readings in in_pieces(of.run, of.times.keys):
        seconds = of.times.seconds_of(np.arange(first, first + readings.shape[1]))
        shown = [from_si(r, c.unit) for r, c in zip(readings, of.channels, strict=True)]
        waiting.append([seconds, *shown])
        count += readings.shape[1]
        if count >= ROWS_AT_ONCE:
            yield [np.concatenate(parts) for parts in zip(*waiting, strict=True)]
            waiting, count = [], 0
    if waiting:
        yield [np.concatenate(parts) for parts in zip(*waiting, strict=True)]
