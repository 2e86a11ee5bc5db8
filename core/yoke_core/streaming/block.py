"""One pass over a block of counts: the form that is stored and the figures that are shown."""

from dataclasses import dataclass
from typing import Any

import numba
import numpy as np
from numpy.typing import NDArray

from yoke_core.arrays import Signals

Array = NDArray[np.float64]
Place = tuple[Signals, int]  # an array of (channels, n), C order; a column of it
LARGEST_EXACT = 2**24  # count, up to which float32 holds each


@dataclass(frozen=True, slots=True)
class BlockSummary:
    """What is known of a block, by channel; signals in the device's SI unit (V/V for bridges).

    place : where ``ratios`` stand
    samples : how many of each channel
    shown : (channels, 1 + 3 * bins): the mean, then lowest, highest and last of each of the
        bins, which are of about equal length; NaN where nothing but clipped samples is
    deviation : (channels,)
    clipped : (channels,), how many samples stood at the converter's rail

    Clipped samples have no value: mean, deviation, lowest and highest leave them out.
    """

    place: Place
    samples: int
    shown: Array
    deviation: Array
    clipped: NDArray[np.int64]

    @property
    def ratios(self) -> Signals:
        """(channels, samples), channel by channel; infinite with the rail's sign where a sample
        clipped. float64 where float32 does not hold each count."""
        row, start = self.place
        return row[:, start : start + self.samples]

    @property
    def mean(self) -> Array:
        return self.shown[:, 0]

    @property
    def low(self) -> Array:
        return self.shown[:, 1::3]

    @property
    def high(self) -> Array:
        return self.shown[:, 2::3]


@numba.njit(cache=True, nogil=True)
def _clipped_bin(counts, ends, rail, about, ratios):  # type: ignore[no-untyped-def]
    """One bin in which samples stand at the rail: those are marked and left out.

    ``ends`` are its lowest and highest count: at an input with nothing in it all clip.
    """
    if ends[0] >= rail or ends[1] <= -rail:
        ratios[:] = np.inf if ends[0] > 0 else -np.inf
        return rail, -rail, 0.0, 0.0, len(counts)
    lowest, highest, total, squares, at_rail = rail, -rail, 0.0, 0.0, 0
    for i in range(len(counts)):
        count = counts[i]
        if count >= rail or count <= -rail:
            ratios[i] = np.inf if count > 0 else -np.inf
            at_rail += 1
            continue
        lowest, highest = min(lowest, count), max(highest, count)
        value = float(count) - about
        total += value
        squares += value * value
    return lowest, highest, total, squares, at_rail


@numba.njit(cache=True, nogil=True, fastmath={"reassoc"})
def _bin(counts, scale, about, ratios):  # type: ignore[no-untyped-def]
    """One bin without branches, its sums in any order, so that the compiler makes vectors.

    Sums are taken ``about`` a count of the block: the squares of large numbers that differ
    little would leave nothing of their difference.
    """
    lowest = highest = counts[0]
    total, squares = 0.0, 0.0
    for i in range(len(counts)):
        count = counts[i]
        value = float(count)
        ratios[i] = value * scale
        lowest, highest = min(lowest, count), max(highest, count)
        off = value - about
        total += off
        squares += off * off
    return lowest, highest, total, squares, 0


@numba.njit(cache=True, nogil=True)
def _turn(counts, start, end, by_channel):  # type: ignore[no-untyped-def]
    for c in range(len(by_channel)):
        for i in range(start, end):
            by_channel[c, i - start] = counts[i, c]


@numba.njit(cache=True, nogil=True)
def _digest(counts, full_scale, rail, row, at, shown, deviation, clipped):  # type: ignore[no-untyped-def]
    samples, channels = counts.shape
    bins = shown.shape[1] // 3
    total, squares = np.zeros(channels), np.zeros(channels)
    clipped[:] = 0
    by_channel = np.empty((channels, samples // bins + 1), counts.dtype)
    for b in range(bins):
        start, end = b * samples // bins, (b + 1) * samples // bins
        _turn(counts, start, end, by_channel)  # a bin at a time stays in the cache
        for c in range(channels):
            scale, about = float(full_scale[c]) / rail, float(counts[0, c])
            own, found = by_channel[c, : end - start], row[c, at + start : at + end]
            part = _bin(own, scale, about, found)
            if part[0] <= -rail or part[1] >= rail:  # nearly no bin clips
                part = _clipped_bin(own, part[:2], rail, about, found)
            lowest, highest = part[:2]
            total[c] += part[2]
            squares[c] += part[3]
            clipped[c] += part[4]
            seen = highest >= lowest
            last = own[-1]
            shown[c, 1 + 3 * b] = lowest * scale if seen else np.nan
            shown[c, 2 + 3 * b] = highest * scale if seen else np.nan
            shown[c, 3 + 3 * b] = last * scale if -rail < last < rail else np.nan
    for c in range(channels):
        scale = float(full_scale[c]) / rail
        used = samples - clipped[c]
        off = total[c] / used if used else np.nan
        shown[c, 0] = (float(counts[0, c]) + off) * scale
        spread = max(squares[c] / used - off * off, 0.0) if used else 0.0
        deviation[c] = np.sqrt(spread) * scale


def summarise_block(
    counts: NDArray[np.int32],
    full_scale: NDArray[np.float32],
    rail: int,
    bins: int,
    place: Place | None = None,
) -> BlockSummary:
    """Turn interleaved counts into signals and figures.

    Parameters
    ----------
    counts : (samples, channels), int32, at least one sample
    full_scale : (channels,), signal at the count ``rail``
    rail : int
        Count at full scale; a sample there or beyond is clipped.
    bins : int
        Bins per block for display; no more than samples are made.
    place : Place or None
        Where the signals are to stand, with room for them; an array of their own without it.

    Returns
    -------
    BlockSummary
        Signals (channels, samples) in float32, infinite where they clipped; extremes, mean and
        deviation of each channel, and of each bin.

    Examples
    --------
    >>> counts = np.array([[0], [500], [1000]], np.int32)
    >>> found = summarise_block(counts, np.array([2.0], np.float32), 1000, 1)
    >>> found.ratios.tolist(), found.clipped.tolist()
    ([[0.0, 1.0, inf]], [1])
    """
    samples, channels = counts.shape
    kind: type[np.floating[Any]] = np.float32 if rail <= LARGEST_EXACT else np.float64
    found = BlockSummary(
        place or (np.empty((channels, samples), kind), 0),
        samples,
        np.empty((channels, 1 + 3 * min(bins, samples))),
        np.empty(channels),
        np.empty(channels, np.int64),
    )
    _digest(counts, full_scale, rail, *found.place, found.shown, found.deviation, found.clipped)
    return found
