"""Readings of a run's channels as they are stored: raw samples with a chain, or computed ones."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.record.models import Layout, Run, Stream
from yoke_server.record.queries import StreamTimes, length_of, times_of
from yoke_server.record.readings.definitions import RunReadings
from yoke_server.record.samples import blocks, read

ROW_SAMPLES = 1 << 16  # that are read at once

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray
    from yoke_core.arrays import Signals
    from yoke_core.signals.chain import SignalChain

    Array = NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class StoredReadings:
    """Where a channel's readings stand: ``chain`` makes them of the samples of ``times.stream``.

    home : the measured stream at whose samples they are
    """

    times: StreamTimes
    place: int
    chain: "SignalChain"
    home: Stream

    def read(self, first: int, last: int) -> "Array":
        """Readings [first, last) in SI."""
        return read_together([self], first, last)[0]


def read_together(wanted: "Sequence[StoredReadings]", first: int, last: int) -> "list[Array]":
    """Readings [first, last) in SI of channels at the same samples; each stream is read once."""
    import numpy as np

    streams = {one.times.stream.pk: one.times.stream for one in wanted}
    places = {pk: [o.place for o in wanted if o.times.stream.pk == pk] for pk in streams}
    samples = {pk: iter(read(s, places[pk], first, last)) for pk, s in streams.items()}
    return [
        one.chain.apply(next(samples[one.times.stream.pk]).astype(np.float64)) for one in wanted
    ]


def measured_times(readings: RunReadings, device: str) -> StreamTimes:
    """A device's stream, with its times as corrected; a 409 problem where there is none."""
    run = readings.run
    stream = measured_stream(run, device)
    if stream is None:
        raise Problem(
            409,
            f"{run.name} holds no samples of {device} that follow each other evenly.",
            code=ProblemType.NO_RESULT,
            hint="Choose another run, or look at what its keep rules have kept.",
        )
    return kept_times(readings, stream)


def measured_stream(run: Run, device: str) -> Stream | None:
    """The stream by which a device's channels are read: what keeps each sample, if any does."""
    streams = run.streams.filter(device_label=device, layout=Layout.UNIFORM)
    return streams.order_by("id").prefetch_related("segments", "channels").first()


def kept_times(readings: RunReadings, stream: Stream) -> StreamTimes:
    """Any measured stream of the run, with its times as corrected."""
    factor = readings.time_factor(stream.device_label)
    return times_of(readings.run, stream).stretched(factor)


def kept_rows_of(
    readings: RunReadings, times: StreamTimes, keys: Sequence[str]
) -> "Iterator[tuple[Array, list[Array]]]":
    """Seconds of the run and readings in SI of measured channels, block by block of a stream."""
    import numpy as np

    stream, chains = times.stream, [(times.keys.index(k), readings.chain(k)) for k in keys]
    for first, data in blocks(stream, 0, times.samples):
        if stream.layout == Layout.TIMED:
            seconds = data[-1] * readings.time_factor(stream.device_label)
        else:
            seconds = times.seconds_of(np.arange(first, first + data.shape[1]))
        yield seconds, [chain.apply(data[place].astype(np.float64)) for place, chain in chains]


def raw_readings(readings: RunReadings, key: str) -> StoredReadings:
    """A measured channel's raw samples with its chain."""
    times = measured_times(readings, readings.device(key))
    return StoredReadings(times, times.keys.index(key), readings.chain(key), times.stream)


def computed_stream(readings: RunReadings, key: str) -> Stream | None:
    """The stored stream of a computed channel as it is defined now; it may be growing."""
    found = Stream.everything.filter(
        run=readings.run, home__isnull=False, fingerprint=readings.fingerprint(key)
    )
    return found.first()


def stored_readings(readings: RunReadings, key: str) -> StoredReadings | None:
    """A channel's readings; of a computed one as far as they are stored, None before that, and
    of one with a problem."""
    if readings.problem(key):
        return None
    if not readings.is_computed(key):
        return raw_readings(readings, key)
    stream = computed_stream(readings, key)
    return None if stream is None else computed_readings(readings, key, stream)


def computed_readings(readings: RunReadings, key: str, stream: Stream) -> StoredReadings:
    """The readings of a computed channel that a stream holds."""
    from yoke_core.signals.chain import SignalChain

    home = measured_times(readings, readings.device(key))
    samples = home.samples if stream.complete else length_of(stream)
    grows = not stream.complete or home.open
    times = replace(home.until(samples), stream=stream, keys=[key], open=grows)
    return StoredReadings(times, 0, SignalChain(()), home.stream)


def complete_readings(readings: RunReadings, key: str) -> StoredReadings:
    """A channel's readings, all of them; a 409 problem while they are not computed."""
    if problem := readings.problem(key):
        raise Problem(409, problem, code=ProblemType.NO_RESULT, hint="Correct its steps first.")
    found = stored_readings(readings, key)
    if found is not None and not found.home.samples:
        raise Problem(
            409,
            f"{readings.run.name} holds no samples.",
            code=ProblemType.NO_RESULT,
            hint="Choose another run.",
        )
    if found is None or (readings.is_computed(key) and not found.times.stream.complete):
        name = channel.name if (channel := readings.channel(key)) else key
        raise Problem(
            409,
            f"{name} of {readings.run.name} is not computed yet.",
            code=ProblemType.NOT_READY,
            hint="Open the run in Derive, and wait a moment.",
        )
    return found


def rows_of(readings: RunReadings, keys: Sequence[str]) -> "Iterator[tuple[int, Array]]":
    """(first sample, (channels, n) readings in SI), some samples at a time.

    Raises a 409 problem for channels that are not measured at the same instants, or that are not
    computed yet.
    """
    import numpy as np

    found = [complete_readings(readings, key) for key in keys]
    if len({f.home.pk for f in found}) != 1:
        raise Problem(
            409,
            "These channels are not measured at the same instants.",
            code=ProblemType.NO_RESULT,
            hint="Wire them to one device, so that one clock takes them.",
        )
    for first, parts in _home_blocks(found[0].home):
        edges = np.cumsum([0, *(part.shape[1] for part in parts)])
        out = np.empty((len(found), edges[-1]))
        for row, one in zip(out, found, strict=True):
            if one.times.stream.pk != one.home.pk:
                row[:] = one.read(first, first + edges[-1])
                continue
            for part, a, b in zip(parts, edges, edges[1:], strict=False):
                row[a:b] = one.chain.apply(part[one.place])
        yield first, out


def _home_blocks(stream: Stream) -> "Iterator[tuple[int, list[Signals]]]":
    """Stored blocks, some at a time, each read once: (first sample, one after the other)."""
    waiting: list[Signals] = []
    begin = count = 0
    for first, data in blocks(stream, 0, stream.samples):
        begin = begin if waiting else first
        waiting.append(data)
        count += data.shape[1]
        if count >= ROW_SAMPLES:
            yield begin, waiting
            waiting, count = [], 0
    if waiting:
        yield begin, waiting
