"""Reading stored samples back as arrays. A block whose checksum differs is never used."""

from collections.abc import Iterator
from typing import Any

import numpy as np
import psycopg
from django.db import connection
from yoke_core.arrays import Signals

from yoke_server.common.http.problems import Problem
from yoke_server.record.models import Stream
from yoke_server.record.seal import checksum

# Starts at the block that holds the first sample and reads a few blocks at a time, so that
# memory does not grow with the run's length.
BEGIN_SQL = """
SELECT coalesce(max(first_sample), 0) FROM record_block
WHERE stream_id = %(stream)s AND first_sample <= %(first)s
"""
BLOCKS_SQL = """
SELECT first_sample, samples, checksum, data FROM record_block
WHERE stream_id = %(stream)s AND first_sample >= %(begin)s AND first_sample < %(last)s
ORDER BY first_sample LIMIT %(many)s
"""
# One channel's part of the same blocks, cut here so that only wanted samples travel.
CHANNEL_SQL = """
SELECT substr(data,
       1 + %(bytes)s * (samples * %(channel)s + greatest(%(first)s - first_sample, 0)::int),
       %(bytes)s * (least(first_sample + samples, %(last)s)
           - greatest(first_sample, %(first)s))::int)
FROM record_block
WHERE stream_id = %(stream)s AND first_sample < %(last)s AND first_sample >= coalesce(
    (SELECT max(first_sample) FROM record_block
     WHERE stream_id = %(stream)s AND first_sample <= %(first)s), 0)
ORDER BY first_sample
"""
BLOCKS_AT_ONCE = 64


def driver_cursor() -> "psycopg.Cursor[tuple[Any, ...]]":
    """The driver's own cursor: answers in binary, and statements that stay prepared."""
    connection.ensure_connection()
    return psycopg.Cursor(connection.connection)


def type_of(stream: Stream) -> np.dtype[Any]:
    """What a sample of a stream is stored as."""
    return np.dtype(f"<f{stream.sample_bytes}")


def blocks(stream: Stream, first: int, last: int) -> Iterator[tuple[int, Signals]]:
    """(first sample, (channels, samples)) of each stored block that meets [first, last)."""
    wanted = {"stream": stream.pk, "first": first, "last": last, "many": BLOCKS_AT_ONCE}
    (wanted["begin"],) = driver_cursor().execute(BEGIN_SQL, wanted).fetchall()[0]
    while found := driver_cursor().execute(BLOCKS_SQL, wanted, binary=True).fetchall():
        wanted["begin"] = found[-1][0] + 1
        for start, samples, expected, data in found:
            if checksum(data) != expected:
                raise Problem(
                    500,
                    f"The block at sample {start} of this run is damaged in the database.",
                    hint="Restore the run from a backup; the other blocks are untouched.",
                )
            yield start, np.frombuffer(data, type_of(stream)).reshape(-1, samples)


def read(stream: Stream, places: list[int], first: int, last: int) -> Signals:
    """Samples [first, last) of the channels at some places of a stream."""
    out = np.full((len(places), max(last - first, 0)), np.nan, type_of(stream))
    for start, data in blocks(stream, first, last):
        a, b = max(start, first), min(start + data.shape[1], last)
        if a < b:
            out[:, a - first : b - first] = data[places, a - start : b - start]
    return out


def read_channel(stream: Stream, place: int, first: int, last: int) -> Signals:
    """Samples [first, last) of one channel for a picture: quick, without checking the blocks."""
    wanted = {
        "stream": stream.pk,
        "channel": place,
        "first": first,
        "last": last,
        "bytes": stream.sample_bytes,
    }
    rows = driver_cursor().execute(CHANNEL_SQL, wanted, prepare=True, binary=True).fetchall()
    return np.frombuffer(b"".join(row[0] for row in rows), type_of(stream))
