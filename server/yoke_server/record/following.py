"""Plot data of a run that is still recording, extended from what was read before.

A plot that follows a run asks for the same again and again, and a little more.
"""

import numpy as np
from yoke_core.arrays import Signals

from yoke_server.record.channel_of_run import MAX_FRESH, ChannelOfRun
from yoke_server.record.levels import FACTOR
from yoke_server.record.pairs import Pairs, Tail, folded, stored, tail_of
from yoke_server.record.samples import read_channel, type_of

MAX_PAIRS = 1 << 15  # that are kept of a channel at a level
MAX_KEPT = 64

_kept: dict[tuple[int, int, int], tuple[object, Tail]] = {}


def followed(channel: ChannelOfRun, level: int, first: int, last: int) -> Pairs:
    """Pairs [first, last) of a level (from 1), up to the newest sample."""
    key = (channel.times.stream.pk, channel.place, level)
    looked_up, known = _kept.get(key, (None, None))
    if known is None or looked_up is not channel.looked_up or not _goes_on(known, channel, first):
        rows, reached = stored(channel, level, first, last)
        if reached == last:
            return rows
        known = _to_the_newest(channel, level, first)
    if channel.times.samples > known.samples:
        known = _read_on(known, channel, FACTOR**level)
    if len(_kept) >= MAX_KEPT:
        _kept.clear()
    _kept[key] = channel.looked_up, known
    return known.pairs.part(first - known.first, last - known.first)


def _goes_on(known: Tail, channel: ChannelOfRun, first: int) -> bool:
    """Whether the known plot data cover the request except for a few samples."""
    missing = channel.times.samples - known.samples
    return known.first <= first and missing < MAX_FRESH and known.pairs.low.size < MAX_PAIRS


def _to_the_newest(channel: ChannelOfRun, level: int, first: int) -> Tail:
    """All from a pair on."""
    tail = tail_of(channel, level)
    rows, _ = stored(channel, level, first, tail.first)
    return Tail(min(first, tail.first), tail.samples, rows.then(tail.pairs))


def _read_on(known: Tail, channel: ChannelOfRun, size: int) -> Tail:
    """The same with the samples that came since; they go on in the group that is begun."""
    samples = _samples_after(channel, known.samples)
    begun = known.samples % size
    more, pairs = folded(Pairs(samples, samples), size, begun), known.pairs
    if begun and pairs.low.size:
        more.low[0] = np.fmin(more.low[0], pairs.low[-1])
        more.high[0] = np.fmax(more.high[0], pairs.high[-1])
        pairs = pairs.part(0, -1)
    return Tail(known.first, channel.times.samples, pairs.then(more))


def _samples_after(channel: ChannelOfRun, first: int) -> Signals:
    """From a sample to the newest one: what the last look brought, if it goes back that far."""
    times = channel.times
    wanted = times.samples - first
    if times.stream.sample_bytes * wanted > len(channel.fresh):
        return read_channel(times.stream, channel.place, first, times.samples)
    return np.frombuffer(channel.fresh, type_of(times.stream))[-wanted:]
