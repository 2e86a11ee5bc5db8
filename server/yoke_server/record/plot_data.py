"""What a plot shows of a run: about as many numbers as it has pixels, from the right level."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from yoke_core.arrays import Signals

from yoke_server.common.http.columns import pack_columns
from yoke_server.record.channel_of_run import ChannelOfRun
from yoke_server.record.following import followed
from yoke_server.record.levels import FACTOR, LEVELS
from yoke_server.record.pairs import Pairs, stored
from yoke_server.record.queries import TimedSegment, even_pieces
from yoke_server.record.samples import read_channel

if TYPE_CHECKING:
    from yoke_core.signals.chain import SignalChain


@dataclass(frozen=True, slots=True)
class PlotSegment:
    """Columns that lie evenly in time: ``count`` of them, ``step_s`` wide, from ``start_s`` on.

    low, high : the signal's SI unit; infinite in a column where a sample clipped
    """

    start_s: float
    step_s: float
    low: Signals
    high: Signals


def level_for(samples: int, pixels: int) -> int:
    """The coarsest level with two pairs a pixel; 0 means the samples themselves."""
    level = 0
    while level < LEVELS and samples / FACTOR ** (level + 1) >= 2 * pixels:
        level += 1
    return level


def fold_to(values: Signals, columns: int, fold: "np.ufunc") -> Signals:
    """Fold to at most ``columns`` groups of about equal size."""
    if values.size <= columns:
        return values
    starts = np.arange(columns) * values.size // columns
    return np.asarray(fold.reduceat(values, starts))


def view(channel: ChannelOfRun, from_s: float, to_s: float, pixels: int) -> list[PlotSegment]:
    """What lies of a channel between two times of its run, segment by segment.

    Where samples are missing no segment lies. All segments together have at most ``pixels``
    columns, and one each.
    """
    parts = [
        p for group in even_pieces(channel.times.segments) if (p := _between(group, from_s, to_s))
    ]
    total = sum(last - first for _, first, last in parts)
    found = []
    for segments, first, last in parts:
        columns = max(1, pixels * (last - first) // total)
        found.append(_plot_segment(channel, segments, (first, last), columns))
    return found


def _between(
    segments: list[TimedSegment], from_s: float, to_s: float
) -> tuple[list[TimedSegment], int, int] | None:
    """The samples of a segment that lie between two times."""
    first = max(_sample_at(segments, from_s, math.floor), segments[0].first)
    last = min(_sample_at(segments, to_s, math.ceil), segments[-1].last)
    return (segments, first, last) if first < last else None


def _sample_at(
    segments: list[TimedSegment], time_s: float, rounding: Callable[[float], int]
) -> int:
    segment = next((p for p in reversed(segments) if p.start_s <= time_s), segments[0])
    away = (time_s - segment.start_s) * segment.rate_hz
    return segment.first + rounding(min(max(away, -1e15), 1e15))


def time_of(segments: list[TimedSegment], sample: int) -> float:
    """Seconds of the run at which a sample was taken."""
    segment = next((p for p in reversed(segments) if p.first <= sample), segments[0])
    return segment.start_s + (sample - segment.first) / segment.rate_hz


def _plot_segment(
    channel: ChannelOfRun, segments: list[TimedSegment], window: tuple[int, int], columns: int
) -> PlotSegment:
    first, last = window
    level = level_for(last - first, columns)
    size = FACTOR**level
    pairs = _pairs(channel, level, first // size, -(-last // size))
    with np.errstate(invalid="ignore"):
        low, high = fold_to(pairs.low, columns, np.fmin), fold_to(pairs.high, columns, np.fmax)
    start_s, end_s = time_of(segments, first), time_of(segments, last)
    return PlotSegment(start_s, (end_s - start_s) / max(low.size, 1), low, high)


def _pairs(channel: ChannelOfRun, level: int, first: int, last: int) -> Pairs:
    """Pairs [first, last) of a level; of level 0 the samples themselves, twice."""
    times = channel.times
    if level == 0:
        samples = read_channel(times.stream, channel.place, first, min(last, times.samples))
        return Pairs(samples, samples)
    if times.open:
        return followed(channel, level, first, last)
    return stored(channel, level, first, last)[0]


def encoded_view(channel: ChannelOfRun, from_s: float, to_s: float, pixels: int) -> bytes:
    """A view in SI as the web reads it (see the API's `run_view`)."""
    return encoded(view(channel, from_s, to_s, pixels), channel.chain)


def nothing_yet() -> bytes:
    """The view of a channel of which nothing is computed so far."""
    return pack_columns({"segments": []}, [])


def encoded(segments: list[PlotSegment], chain: "SignalChain") -> bytes:
    """Segments as the web reads them; ``chain`` makes readings in SI of their values."""
    nothing = [np.empty(0, np.float32)]
    low, high = chain.extremes(
        np.concatenate([*nothing, *(s.low for s in segments)]),
        np.concatenate([*nothing, *(s.high for s in segments)]),
    )
    columns = [{"start_s": s.start_s, "step_s": s.step_s, "count": len(s.low)} for s in segments]
    return pack_columns({"segments": columns}, [low, high])
