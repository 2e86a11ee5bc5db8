"""What a plot shows of a run: about as many numbers as it has pixels, from the right level."""

from dataclasses import dataclass

import numpy as np
import psycopg
from django.db import connection
from numpy.typing import NDArray

from yoke_server.record.envelopes import FACTOR, LEVELS
from yoke_server.record.models import OPEN_STATES, Stream
from yoke_server.record.samples import read

Pairs = NDArray[np.float32]

# The rows that meet [first, last), their ends cut here so that only wanted pairs travel.
ROWS_SQL = """
WITH cut AS (
    SELECT data, pairs, first_pair,
           (greatest(first_pair, %(first)s) - first_pair)::int AS skip,
           (least(first_pair + pairs, %(last)s) - greatest(first_pair, %(first)s))::int AS take
    FROM record_enveloperow
    WHERE stream_id = %(stream)s AND channel = %(channel)s AND level = %(level)s
      AND first_pair < %(last)s AND first_pair + pairs > %(first)s
)
SELECT substr(data, 1 + 4 * skip, 4 * take), substr(data, 1 + 4 * (pairs + skip), 4 * take)
FROM cut ORDER BY first_pair
"""


@dataclass(frozen=True, slots=True)
class View:
    """Lowest and highest per column (V/V); each column spans ``step`` samples from ``first``."""

    first: int
    step: float
    low: Pairs
    high: Pairs


def level_for(samples: int, pixels: int) -> int:
    """The coarsest level with two pairs a pixel; 0 means the samples themselves."""
    level = 0
    while level < LEVELS and samples / FACTOR ** (level + 1) >= 2 * pixels:
        level += 1
    return level


def fold_to(values: Pairs, columns: int, fold: "np.ufunc") -> Pairs:
    """Fold to at most ``columns`` groups of about equal size."""
    if values.size <= columns:
        return values
    starts = np.arange(columns) * values.size // columns
    return np.asarray(fold.reduceat(values, starts))


def view(stream: Stream, channel: int, first: int, last: int, pixels: int) -> View:
    """Samples [first, last) of one channel for a plot ``pixels`` wide; gaps give NaN."""
    level = level_for(last - first, pixels)
    if level == 0 or stream.run.state in OPEN_STATES:
        low = high = read(stream, [channel], first, last)[0]
    else:
        size = FACTOR**level
        low, high = _pairs(stream, channel, level, first // size, -(-last // size))
    with np.errstate(invalid="ignore"):
        low, high = fold_to(low, pixels, np.fmin), fold_to(high, pixels, np.fmax)
    return View(first, (last - first) / max(low.size, 1), low, high)


def _pairs(stream: Stream, channel: int, level: int, first: int, last: int) -> tuple[Pairs, Pairs]:
    connection.ensure_connection()
    # The driver's own cursor: answers in binary, and a statement that stays prepared.
    rows = (
        psycopg.Cursor(connection.connection)
        .execute(
            ROWS_SQL,
            {"stream": stream.pk, "channel": channel, "level": level, "first": first, "last": last},
            prepare=True,
            binary=True,
        )
        .fetchall()
    )
    nothing = [np.empty(0, np.float32)]
    low = np.concatenate([np.frombuffer(r[0], "<f4") for r in rows] or nothing)
    high = np.concatenate([np.frombuffer(r[1], "<f4") for r in rows] or nothing)
    return low, high
