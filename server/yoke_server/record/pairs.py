"""Envelope pairs of a stream: stored ones, and those not stored yet."""

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
from yoke_core.arrays import Signals

from yoke_server.record.channel_of_run import ChannelOfRun
from yoke_server.record.levels import FACTOR, LEVELS
from yoke_server.record.samples import driver_cursor, type_of

# The rows that meet [first, last), one channel of them, their ends cut here so that only
# wanted pairs travel; and up to which pair there are rows.
ROWS_SQL = """
WITH cut AS (
    SELECT data, pairs, first_pair, 8 * pairs * %(channel)s AS at,
           (greatest(first_pair, %(first)s) - first_pair)::int AS skip,
           (least(first_pair + pairs, %(last)s) - greatest(first_pair, %(first)s))::int AS take
    FROM record_enveloperow
    WHERE stream_id = %(stream)s AND level = %(level)s
      AND first_pair < %(last)s AND first_pair + pairs > %(first)s
      AND first_pair >= %(first)s - %(longest)s
)
SELECT substr(data, 1 + at + 4 * skip, 4 * take),
       substr(data, 1 + at + 4 * (pairs + skip), 4 * take), first_pair + pairs
FROM cut ORDER BY first_pair
"""
MAX_ROW_LENGTH = 4096  # pairs of any row ever written
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
     1 + %(bytes)s * (samples * %(channel)s + greatest(%(from_0)s - first_sample, 0)::int),
     %(bytes)s * (least(first_sample + samples, %(to_0)s)
         - greatest(first_sample, %(from_0)s))::int), NULL
 FROM record_block WHERE stream_id = %(stream)s AND first_sample < %(to_0)s
 AND first_sample >= coalesce((SELECT first_sample FROM record_block
     WHERE stream_id = %(stream)s AND first_sample <= %(from_0)s
     ORDER BY first_sample DESC LIMIT 1), 0)
 AND first_sample + samples > %(from_0)s ORDER BY first_sample)
"""


class Pairs(NamedTuple):
    """Lowest and highest of groups of samples, one after the other."""

    low: Signals
    high: Signals

    def part(self, first: int, last: int) -> "Pairs":
        return Pairs(self.low[first:last], self.high[first:last])

    def then(self, more: "Pairs") -> "Pairs":
        return Pairs(np.concatenate([self.low, more.low]), np.concatenate([self.high, more.high]))


class Tail(NamedTuple):
    """Pairs of a level from pair ``first`` on, of the samples up to ``samples``.

    The last one may be of a group that is only begun.
    """

    first: int
    samples: int
    pairs: Pairs


def stored(channel: ChannelOfRun, level: int, first: int, last: int) -> tuple[Pairs, int]:
    """Pairs [first, last) of a level (from 1) as far as rows go, and where they end."""
    wanted = {
        "stream": channel.times.stream.pk,
        "channel": channel.place,
        "level": level,
        "first": first,
        "last": last,
        "longest": MAX_ROW_LENGTH,
    }
    rows = driver_cursor().execute(ROWS_SQL, wanted, prepare=True, binary=True).fetchall()
    return _joined(rows, 0), min(int(rows[-1][2]), last) if rows else first


def tail_of(channel: ChannelOfRun, level: int) -> Tail:
    """The pairs of a level that are not stored yet, from the rows and samples below it.

    Rows of the level that are read after this go to its first pair, or beyond.
    """
    stream = channel.times.stream
    wanted = {"stream": stream.pk, "channel": channel.place, "bytes": stream.sample_bytes}
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
    newest = np.frombuffer(b"".join(r[1] for r in found.get(0, ())), type_of(stream))
    pairs = Pairs(newest, newest)
    for below in range(1, level):
        pairs = _joined(found.get(below, ()), 1).then(folded(pairs, FACTOR))
    return Tail(ends[level - 1], samples, folded(pairs, FACTOR))


def _joined(rows: Sequence[tuple[Any, ...]], at: int) -> Pairs:
    """The lows that stand at a place of rows, and the highs behind them."""
    low, high = (b"".join(row[i] for row in rows) for i in (at, at + 1))
    return Pairs(np.frombuffer(low, "<f4"), np.frombuffer(high, "<f4"))


def folded(pairs: Pairs, size: int, begun: int = 0) -> Pairs:
    """Folded in groups of ``size``; the first has ``begun`` already, the last may be short."""
    starts = np.maximum(np.arange(-begun, pairs.low.size, size), 0)
    if not pairs.low.size:
        return pairs
    return Pairs(np.fmin.reduceat(pairs.low, starts), np.fmax.reduceat(pairs.high, starts))
