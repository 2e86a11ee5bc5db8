"""How the extremes of the cycles have gone, from the start of a run to now."""

from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime

import numpy as np

from yoke_server.kinds.keep_rules.base import KeepRule, names_of
from yoke_server.record.kept_rows import timed_stream
from yoke_server.record.models import Layout, Run, Stream
from yoke_server.record.queries import StreamTimes
from yoke_server.record.readings.definitions import RunReadings, readings_of
from yoke_server.record.readings.stored import kept_times
from yoke_server.record.samples import read_channel

ROWS = 20  # at either end, of which the highest counts
MAX_RUNS = 3


@dataclass(frozen=True, slots=True)
class Drift:
    """The highest of a channel's cycles at the start of a run and now, in its unit."""

    channel: str
    unit: str
    decimals: int
    begin: float
    now: float


@dataclass(frozen=True, slots=True)
class RunDrift:
    """``cycles``: since the moment that was asked about, and in the whole run."""

    run: int
    run_name: str
    cycles: int
    cycles_in_all: int
    drifts: list[Drift]


def drifts_since(runs: list[Run], moment: datetime) -> list[RunDrift]:
    """Of runs that keep cycles, the newest first."""
    found: list[RunDrift] = []
    for run in sorted(runs, key=lambda r: r.started_at, reverse=True):
        if len(found) == MAX_RUNS:
            break
        found += _of_run(run, moment)
    return found


def _of_run(run: Run, moment: datetime) -> Iterator[RunDrift]:
    readings = readings_of(run)
    rules = readings.setup.keep_rules
    for name, rule in zip(names_of(rules), rules, strict=True):
        lead = next(iter(rule.channels), "")
        known = readings.measured.get(lead)
        if not rule.cycles_of_rows or known is None or not _is_kept(run, name, known.device_label):
            continue
        stream = timed_stream(readings, name, lead)
        times = kept_times(readings, stream)
        if times.samples:
            yield _drift(readings, rule, times, (moment - run.started_at).total_seconds())
            return


def _is_kept(run: Run, rule: str, device: str) -> bool:
    timed: Layout = Layout.TIMED
    return run.streams.filter(device_label=device, rule=rule, layout=timed).exists()


def _drift(readings: RunReadings, rule: KeepRule, times: StreamTimes, since_s: float) -> RunDrift:
    run, rows = readings.run, times.samples
    seen = _first_row_at(times.stream, len(times.keys), rows, since_s)
    since, in_all = (n // 2 * rule.cycles_of_rows for n in (rows - seen, rows))
    drifts = [d for place, key in enumerate(times.keys) if (d := _of(readings, times, place, key))]
    return RunDrift(run.pk, run.name, since, in_all, drifts)


def _of(readings: RunReadings, times: StreamTimes, place: int, key: str) -> Drift | None:
    channel, rows = readings.channel(key), times.samples
    if channel is None:
        return None
    ends: list[float] = []
    for first in (0, max(0, rows - ROWS)):
        raw = read_channel(times.stream, place, first, min(rows, first + ROWS)).astype(float)
        reading = readings.chain(key).apply(raw)
        known = reading[np.isfinite(reading)]
        if not len(known):
            return None
        ends.append(float(channel.shown(known.max())))
    begin, now = ends
    return Drift(channel.name, channel.unit, channel.decimals, begin, now)


def _first_row_at(stream: Stream, plane: int, rows: int, seconds: float) -> int:
    """The first row from a time of the run on; a few rows are read, however many there are."""
    low, high = 0, rows
    while low < high:
        middle = (low + high) // 2
        if float(read_channel(stream, plane, middle, middle + 1)[0]) < seconds:
            low = middle + 1
        else:
            high = middle
    return low
