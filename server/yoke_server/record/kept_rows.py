"""What a plot shows of a timed stream: its rows, or the pairs of the level that fits."""

from typing import TYPE_CHECKING

import numpy as np
from yoke_core.arrays import Signals

from yoke_server.common.http.columns import pack_columns
from yoke_server.common.http.problem_types import ProblemType
from yoke_server.common.http.problems import Problem
from yoke_server.record.channel_of_run import ChannelOfRun
from yoke_server.record.models import Layout, Stream
from yoke_server.record.pairs import Pairs, stored, tail_of
from yoke_server.record.plot_data import fold_to, level_for
from yoke_server.record.queries import StreamTimes
from yoke_server.record.readings.definitions import RunReadings
from yoke_server.record.readings.stored import kept_times
from yoke_server.record.samples import read_channel

if TYPE_CHECKING:
    from yoke_core.signals.chain import SignalChain


def timed_stream(readings: RunReadings, rule: str, key: str) -> Stream:
    """The stream of a rule that holds a channel; a 404 or 409 problem where there is none."""
    channel, run = readings.channel(key), readings.run
    if channel is None:
        raise Problem(404, "This run has no such channel.", field="channel")
    streams = run.streams.filter(device_label=readings.device(key), rule=rule, layout=Layout.TIMED)
    found = streams.prefetch_related("segments", "channels").first()
    if found is None or key not in [c.channel_key for c in found.channels.all()]:
        raise Problem(
            409,
            f"{run.name} keeps no {rule.replace('_', ' ')} of {channel.name}.",
            code=ProblemType.NO_RESULT,
            hint="Choose a channel that is measured, and a keep rule of the run.",
        )
    return found


def encoded_rows(readings: RunReadings, rule: str, key: str, pixels: int) -> bytes:
    """All rows of a rule: their times, and the lowest and the highest of each column in SI."""
    stream = timed_stream(readings, rule, key)
    times, chain = kept_times(readings, stream), readings.chain(key)
    channel = readings.channel(key)
    assert channel is not None
    of_value = ChannelOfRun(times, times.keys.index(key), channel, chain)
    of_time = ChannelOfRun(times, len(times.keys), channel, chain)
    level = level_for(times.samples, pixels)
    values, seconds = _pairs(of_value, times, level), _pairs(of_time, times, level)
    columns = min(pixels, len(values.low))
    low, high = _extremes(values, columns, chain)
    at = fold_to(seconds.low, columns, np.fmin) * readings.time_factor(stream.device_label)
    return pack_columns({"rows": times.samples, "count": len(low)}, [at, low, high])


def _pairs(channel: ChannelOfRun, times: StreamTimes, level: int) -> Pairs:
    if level == 0:
        found = read_channel(times.stream, channel.place, 0, times.samples)
        return Pairs(found, found)
    rows, end = stored(channel, level, 0, times.samples)
    tail = tail_of(channel, level)
    return rows.part(0, tail.first).then(tail.pairs) if end >= tail.first else rows


def _extremes(pairs: Pairs, columns: int, chain: "SignalChain") -> tuple[Signals, Signals]:
    low, high = chain.extremes(pairs.low, pairs.high)
    return fold_to(low, columns, np.fmin), fold_to(high, columns, np.fmax)
