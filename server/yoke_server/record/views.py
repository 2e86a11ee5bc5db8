"""What a plot shows of a run: about as many numbers as it has pixels, from the right level."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from itertools import groupby

import numpy as np
from yoke_core.arrays import Signals

from yoke_server.calibrate.scaling import chain_of
from yoke_server.common.columns import pack_columns
from yoke_server.record.following import followed
from yoke_server.record.levels import FACTOR, LEVELS
from yoke_server.record.models import Cause
from yoke_server.record.pairs import Pairs, stored
from yoke_server.record.queries import ChannelOfRun, Piece
from yoke_server.record.samples import read_channel


@dataclass(frozen=True, slots=True)
class Stretch:
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


def view(channel: ChannelOfRun, from_s: float, to_s: float, pixels: int) -> list[Stretch]:
    """What lies of a channel between two times of its run, stretch by stretch.

    Where samples are missing no stretch lies. All stretches together have at most ``pixels``
    columns, and one each.
    """
    parts = [p for group in _even(channel.times.pieces) if (p := _between(group, from_s, to_s))]
    total = sum(last - first for _, first, last in parts)
    found = []
    for pieces, first, last in parts:
        columns = max(1, pixels * (last - first) // total)
        found.append(_stretch(channel, pieces, (first, last), columns))
    return found


def _even(pieces: list[Piece]) -> list[list[Piece]]:
    """Pieces that follow each other without a gap or a step."""
    numbers, group = [], 0
    for piece in pieces:
        group += piece.cause in (Cause.GAP, Cause.STEP, Cause.PAUSE)
        numbers.append(group)
    pairs = groupby(zip(numbers, pieces, strict=True), key=lambda pair: pair[0])
    return [[piece for _, piece in group] for _, group in pairs]


def _between(
    pieces: list[Piece], from_s: float, to_s: float
) -> tuple[list[Piece], int, int] | None:
    """The samples of a stretch that lie between two times."""
    first = max(_sample_at(pieces, from_s, math.floor), pieces[0].first)
    last = min(_sample_at(pieces, to_s, math.ceil), pieces[-1].last)
    return (pieces, first, last) if first < last else None


def _sample_at(pieces: list[Piece], time_s: float, rounding: Callable[[float], int]) -> int:
    piece = next((p for p in reversed(pieces) if p.start_s <= time_s), pieces[0])
    away = (time_s - piece.start_s) * piece.rate_hz
    return piece.first + rounding(min(max(away, -1e15), 1e15))


def time_of(pieces: list[Piece], sample: int) -> float:
    """Seconds of the run at which a sample was taken."""
    piece = next((p for p in reversed(pieces) if p.first <= sample), pieces[0])
    return piece.start_s + (sample - piece.first) / piece.rate_hz


def _stretch(
    channel: ChannelOfRun, pieces: list[Piece], window: tuple[int, int], columns: int
) -> Stretch:
    first, last = window
    level = level_for(last - first, columns)
    size = FACTOR**level
    pairs = _pairs(channel, level, first // size, -(-last // size))
    with np.errstate(invalid="ignore"):
        low, high = fold_to(pairs.low, columns, np.fmin), fold_to(pairs.high, columns, np.fmax)
    start_s, end_s = time_of(pieces, first), time_of(pieces, last)
    return Stretch(start_s, (end_s - start_s) / max(low.size, 1), low, high)


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
    stretches = view(channel, from_s, to_s, pixels)
    nothing = [np.empty(0, np.float32)]
    low, high = chain_of(channel.settings).extremes(
        np.concatenate([*nothing, *(s.low for s in stretches)]),
        np.concatenate([*nothing, *(s.high for s in stretches)]),
    )
    columns = [{"start_s": s.start_s, "step_s": s.step_s, "count": len(s.low)} for s in stretches]
    return pack_columns({"stretches": columns}, [low, high])
