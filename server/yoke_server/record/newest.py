"""The newest part of an open stream's envelope, which stands in no row of its level yet.

What was folded once is kept, and the samples since then are read: a plot that follows a run asks
for the same again and again.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from yoke_server.record.levels import FACTOR, LEVELS
from yoke_server.record.queries import StreamTimes
from yoke_server.record.samples import driver_cursor, read_channel

Pairs = NDArray[np.float32]

# By level, where its rows end, and where the samples do: looked up in the index, whatever the
# stream's length.
END_OF = """coalesce((SELECT first_pair + pairs FROM record_enveloperow
    WHERE stream_id = %(stream)s AND level = {} ORDER BY first_pair DESC LIMIT 1), 0)"""
ENDS_SQL = f"""SELECT ARRAY[{", ".join(END_OF.format(level) for level in range(1, LEVELS + 1))}],
coalesce((SELECT first_sample + samples FROM record_block
    WHERE stream_id = %(stream)s ORDER BY first_sample DESC LIMIT 1), 0)"""  # noqa: S608 (our own)
# Of each level below the rows past those above, then the samples past the rows of level 1. Each
# ends where that level was known to end, so that rows that are written meanwhile are not counted
# twice.
LEVEL_SQL = """
(SELECT {level}, substr(data, 1 + 8 * pairs * %(channel)s, 4 * pairs),
        substr(data, 1 + 8 * pairs * %(channel)s + 4 * pairs, 4 * pairs)
 FROM record_enveloperow WHERE stream_id = %(stream)s AND level = {level}
 AND first_pair >= %(from_{level})s AND first_pair < %(to_{level})s ORDER BY first_pair)
UNION ALL
"""
SAMPLES_SQL = """
(SELECT 0, substr(data,
     1 + 4 * (samples * %(channel)s + greatest(%(from_0)s - first_sample, 0)::int),
     4 * (least(first_sample + samples, %(to_0)s) - greatest(first_sample, %(from_0)s))::int), NULL
 FROM record_block WHERE stream_id = %(stream)s AND first_sample < %(to_0)s
 AND first_sample >= coalesce((SELECT first_sample FROM record_block
     WHERE stream_id = %(stream)s AND first_sample <= %(from_0)s
     ORDER BY first_sample DESC LIMIT 1), 0)
 AND first_sample + samples > %(from_0)s ORDER BY first_sample)
"""
MOST_READ = 1 << 16  # samples; with more since then, what stands in rows is looked up again
MOST_PAIRS = 4096
MOST_KEPT = 256


@dataclass(frozen=True, slots=True)
class Newest:
    """Pairs of a level from pair ``first`` on, of the samples up to ``samples``.

    The last one may be of a group that is only begun.
    """

    first: int
    samples: int
    low: Pairs
    high: Pairs


_kept: dict[tuple[int, int, int], Newest] = {}


def newest(times: StreamTimes, place: int, level: int, last: int) -> Newest | None:
    """What of a level's pairs before ``last`` stands in no row, for one channel; None: nothing.

    Rows are to be read after this: they reach to its first pair then, or beyond it.
    """
    key = (times.stream.pk, place, level)
    known = _kept.get(key)
    if known and last <= known.first:
        return None
    if known is None or _is_behind(known, times):
        known = _of_rows(times, place, level)
    if times.samples > known.samples:
        known = _read_on(known, times, place, level)
    if len(_kept) >= MOST_KEPT:
        _kept.clear()
    _kept[key] = known
    return known if last > known.first else None


def _is_behind(known: Newest, times: StreamTimes) -> bool:
    """Whether looking up again what stands in rows by now is less than going on."""
    return times.samples - known.samples > MOST_READ or known.low.size > MOST_PAIRS


def _read_on(known: Newest, times: StreamTimes, place: int, level: int) -> Newest:
    """The same with the samples that came since; they go on in the group that is begun."""
    size = FACTOR**level
    more = read_channel(times.stream, place, known.samples, times.samples)
    begun = known.samples % size
    starts = np.maximum(np.arange(-begun, more.size, size), 0)
    low, high = np.fmin.reduceat(more, starts), np.fmax.reduceat(more, starts)
    old_low, old_high = known.low, known.high
    if begun and old_low.size:
        low[0], high[0] = np.fmin(low[0], old_low[-1]), np.fmax(high[0], old_high[-1])
        old_low, old_high = old_low[:-1], old_high[:-1]
    joined = np.concatenate([old_low, low]), np.concatenate([old_high, high])
    return Newest(known.first, times.samples, *joined)


def _of_rows(times: StreamTimes, place: int, level: int) -> Newest:
    """From the rows of the levels below: each level's go on where those above it end."""
    wanted = {"stream": times.stream.pk, "channel": place}
    cursor = driver_cursor()
    ends, samples = cursor.execute(ENDS_SQL, wanted, prepare=True, binary=True).fetchall()[0]
    sql = ""
    for below in range(level - 1, -1, -1):
        wanted[f"from_{below}"] = ends[below] * FACTOR
        wanted[f"to_{below}"] = ends[below - 1] if below else samples
        sql += LEVEL_SQL.format(level=below) if below else SAMPLES_SQL
    found: dict[int, list[tuple[Any, ...]]] = {}
    for row in cursor.execute(sql, wanted, prepare=True, binary=True).fetchall():
        found.setdefault(row[0], []).append(row)
    low = high = np.frombuffer(b"".join(r[1] for r in found.get(0, ())), "<f4")
    for below in range(1, level):
        rows = found.get(below, ())
        folded = _fold_groups(low, np.fmin), _fold_groups(high, np.fmax)
        low = np.concatenate([np.frombuffer(b"".join(r[1] for r in rows), "<f4"), folded[0]])
        high = np.concatenate([np.frombuffer(b"".join(r[2] for r in rows), "<f4"), folded[1]])
    folded = _fold_groups(low, np.fmin), _fold_groups(high, np.fmax)
    return Newest(ends[level - 1], samples, *folded)


def _fold_groups(values: Pairs, fold: "np.ufunc") -> Pairs:
    """Groups of `FACTOR`; the last one may be short."""
    if not values.size:
        return values
    return np.asarray(fold.reduceat(values, np.arange(0, values.size, FACTOR)))
