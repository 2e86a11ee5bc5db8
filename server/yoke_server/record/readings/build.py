"""Computed streams of a run, made from what was measured, block by block."""

import logging
from collections.abc import Iterator
from functools import partial
from math import isfinite
from time import monotonic
from typing import TYPE_CHECKING

from django.db import IntegrityError, connection, transaction
from yoke_core.errors import CoreError

from yoke_server.common.db.notify import NEWS, notify
from yoke_server.common.http.problems import Problem
from yoke_server.common.tasks.worker import goes_on
from yoke_server.record.envelopes import EnvelopeWriter
from yoke_server.record.models import Run, Stream
from yoke_server.record.queries import StreamTimes
from yoke_server.record.readings.definitions import RunReadings
from yoke_server.record.readings.live import add_computed_stream
from yoke_server.record.readings.stored import (
    ROW_SAMPLES,
    StoredReadings,
    complete_readings,
    computed_stream,
    measured_times,
    raw_readings,
    read_together,
)
from yoke_server.record.seal import seal
from yoke_server.record.store import Samples, add_envelope_rows, write_samples

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray
    from yoke_core.corrections.operations import Block, BothWays, Source

    Array = NDArray[np.float64]

log = logging.getLogger(__name__)

TELL_EVERY = 1.0  # s
NEIGHBOURS = 4  # samples of another device beyond a row that are looked at
LOCKS = 0x5265616E  # class of the advisory locks: one builder a run


class Cancelled(Exception):
    """Somebody has taken the stream away while it was made."""


def build_all(run: Run, readings: RunReadings, keys: list[str] | None = None) -> None:
    """Make the computed streams of a run that are missing, of all channels or of some.

    A second builder of the same run waits for the first.
    """
    wanted = [c.key for c in readings.channels] if keys is None else keys
    missing = [key for key in wanted if _is_missing(readings, key)]
    if not missing:
        return
    with connection.cursor() as cursor:
        cursor.execute("SELECT pg_advisory_lock(%s, %s)", [LOCKS, run.pk % (1 << 31)])
        try:
            for key in missing:
                _build_alone(readings, key)
        except Cancelled:
            log.info("Computed channels of %s: cancelled", run.name)
        finally:
            cursor.execute("SELECT pg_advisory_unlock(%s, %s)", [LOCKS, run.pk % (1 << 31)])
    drop_outdated(readings)


def _build_alone(readings: RunReadings, key: str) -> None:
    """What is wrong with one channel keeps no other from being made."""
    try:
        build(readings, key)
    except (Problem, CoreError):
        log.warning("%s of %s", key, readings.run.name, exc_info=True)


def _is_missing(readings: RunReadings, key: str) -> bool:
    if readings.problem(key) or not readings.is_computed(key):
        return False
    stream = computed_stream(readings, key)
    return stream is None or not stream.complete


def build(readings: RunReadings, key: str) -> None:
    """Make the stream of one computed channel, and before it those that it is computed of."""
    if not _is_missing(readings, key):
        return
    for other in readings.inputs(key) - {key}:
        build(readings, other)
    if half := computed_stream(readings, key):
        half.delete()  # of a builder that died
    home = measured_times(readings, readings.device(key))
    stream = add_computed_stream(readings, key, home.stream)
    try:
        _write(readings, stream, signal_of(readings, key))
    except Exception:
        stream.delete()
        raise


def drop_outdated(readings: RunReadings) -> None:
    """Drop streams that are defined otherwise by now."""
    computed = [c.key for c in readings.channels if readings.is_computed(c.key)]
    current = [readings.fingerprint(key) for key in computed]
    streams = Stream.everything.filter(run=readings.run, home__isnull=False)
    streams.exclude(fingerprint__in=current).delete()


# The signal


Part = tuple[int, int]  # samples from the first to before the last


def part_of(readings: RunReadings, key: str, part: Part, most: int) -> "Iterator[Block]":
    """Readings of a computed channel (SI) in a part of a run, as far as they depend on so many
    samples at most; earlier ones may come along."""
    from yoke_core.signals.graph import SignalGraph

    node, begin = readings.signals.nodes.get(key), 0
    if not readings.has_operations(key):
        rate_hz = readings.rate_hz(readings.device(key))
        memory = SignalGraph({key: node}).memory_samples(rate_hz) if node else 0
        begin = max(0, part[0] - int(memory)) if isfinite(memory) else 0
    return signal_of(readings, key, (begin, min(part[1], begin + most)))


def signal_of(readings: RunReadings, key: str, part: Part | None = None) -> "Iterator[Block]":
    """Readings of a computed channel (SI): all, or of a part, which is as if nothing lay before."""
    device = readings.device(key)
    times, rate_hz = measured_times(readings, device), readings.rate_hz(device)
    source: Source = partial(_graph_signal, readings, key, part)
    if readings.has_operations(key):
        for correction in readings.corrections_of(key):
            if operation := correction.operation(times.place_of):
                source = partial(operation.run, source, rate_hz)
    return source()


def _graph_signal(readings: RunReadings, key: str, part: Part | None) -> "Iterator[Block]":
    """A channel's signal before its corrections: through its graph, or by its chain."""
    from yoke_core.corrections.operations import Block
    from yoke_core.signals.graph import Measured, SignalGraph

    device = readings.device(key)
    home, rate_hz = measured_times(readings, device), readings.rate_hz(device)
    graph = SignalGraph({key: readings.signals.nodes.get(key, Measured(key))})
    process = graph.start(rate_hz)
    inputs = {k: _input(readings, k, k == key) for k in graph.keys}
    here = {k: one for k, one in inputs.items() if one.home.pk == home.stream.pk}
    elsewhere = {
        k: (one, 1 / readings.rate_hz(readings.device(k)))
        for k, one in inputs.items()
        if k not in here
    }
    start, stop = part or (0, home.samples)
    pieces = [(max(a, start), min(b, stop)) for a, b in home.pieces]
    for begin, end in pieces:
        for first in range(begin, end, ROW_SAMPLES):
            last = min(first + ROW_SAMPLES, end)
            read = read_together(list(here.values()), first, last)
            values = dict(zip(here, read, strict=True))
            for k, (one, period_s) in elsewhere.items():
                values[k] = _between_samples(one, period_s, home, first, last)
            yield Block(first, process.push(values, first > begin)[key], first > begin)


def _input(readings: RunReadings, key: str, own: bool) -> StoredReadings:
    """A channel that a signal is computed of; ``own``: the signal is the same channel's."""
    if own or not readings.has_operations(key):
        return raw_readings(readings, key)
    return complete_readings(readings, key)


def _between_samples(
    of: StoredReadings, period_s: float, home: StreamTimes, first: int, last: int
) -> "Array":
    """Readings of another device at the instants of samples [first, last) of the home."""
    import numpy as np
    from yoke_core.timebase.interpolation import interpolate

    at, own = home.seconds_of(np.arange(first, last)), of.times
    limit = _limit(1 / period_s, home.stream.rate_hz)
    margin = NEIGHBOURS + (limit.margin(1 / period_s) if limit else 0)
    begin = max(own.place_of(at[0]) - margin, 0)
    end = min(own.place_of(at[-1]) + margin + 1, own.samples)
    values = of.read(begin, end)
    if limit:
        values = limit.apply(values, 1 / period_s)
    return interpolate(own.seconds_of(np.arange(begin, end)), values, at, period_s)


def _limit(rate_hz: float, home_hz: float) -> "BothWays | None":
    """What a signal goes through first where it is taken at a lower rate; None at a higher one."""
    from yoke_core.corrections.operations import BothWays
    from yoke_core.timebase.interpolation import anti_alias

    return BothWays(anti_alias(home_hz)) if rate_hz > home_hz else None


# Its stream


def _write(readings: RunReadings, stream: Stream, signal: "Iterator[Block]") -> None:
    """All of a signal as rows with their envelopes; raises Cancelled if the stream is gone."""
    import numpy as np

    envelope, chain, told, first = EnvelopeWriter(stream.pk, 1), b"", monotonic(), 0
    for part in _rows(signal):
        samples = np.ascontiguousarray(part[None, :], dtype=np.float32)
        rows = envelope.push(samples)
        data = samples.data.cast("B")
        checksum, chain = seal(chain, first, data)
        block = (stream.pk, first, samples.shape[1], 0, 0, checksum, chain, data)
        _write_row(stream, Samples(stream.pk, readings.run.pk, block, rows))
        first += samples.shape[1]
        Stream.everything.filter(pk=stream.pk).update(samples=first)
        goes_on()
        if monotonic() - told > TELL_EVERY:
            told = monotonic()
            _tell(readings.run)
    add_envelope_rows(envelope.finish())
    if not Stream.everything.filter(pk=stream.pk).update(samples=first, complete=True):
        raise Cancelled
    _tell(readings.run)


def _write_row(stream: Stream, row: Samples) -> None:
    """Raises Cancelled if the stream is gone, also if it goes at this moment."""
    try:
        if Stream.everything.filter(pk=stream.pk).exists():
            with transaction.atomic():
                write_samples([row])
            return
    except IntegrityError as error:
        raise Cancelled from error
    raise Cancelled


def _rows(signal: "Iterator[Block]") -> "Iterator[Array]":
    """The same samples in rows of a size that is quick to store and to read."""
    import numpy as np

    waiting: list[Array] = []
    count = 0
    for block in signal:
        waiting.append(block.values)
        count += len(block.values)
        if count >= ROW_SAMPLES:
            yield np.concatenate(waiting)
            waiting, count = [], 0
    if count:
        yield np.concatenate(waiting)


def _tell(run: Run) -> None:
    notify(NEWS, kind="readings", setup=run.setup_id, run=run.pk)
