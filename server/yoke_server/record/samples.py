"""Reading stored samples back as arrays. A block whose checksum differs is never used."""

import zlib
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from yoke_server.config.problems import Problem
from yoke_server.record.models import Stream

Ratios = NDArray[np.float32]


def blocks(stream: Stream, first: int = 0, last: int | None = None) -> Iterator[tuple[int, Ratios]]:
    """(first sample, (channels, samples)) of each stored block that meets [first, last)."""
    rows = stream.blocks.order_by("sequence")
    rows = rows.filter(first_sample__gt=first - _longest_block(stream))
    if last is not None:
        rows = rows.filter(first_sample__lt=last)
    fields = rows.values_list("sequence", "first_sample", "samples", "checksum", "data")
    for sequence, start, samples, checksum, data in fields.iterator(chunk_size=100):
        if start + samples <= first:
            continue
        if zlib.crc32(data) != checksum:
            raise Problem(
                500,
                f"Block {sequence} of this run is damaged in the database.",
                hint="Restore the run from a backup; the other blocks are untouched.",
            )
        yield start, np.frombuffer(data, "<f4").reshape(stream.channel_count, samples)


def _longest_block(stream: Stream) -> int:
    # Blocks span a tenth of a second; clocks off by a little make them a sample longer.
    return int(stream.rate_hz) + 2


def read(stream: Stream, channels: list[int], first: int, last: int) -> Ratios:
    """Samples [first, last) of some channels, NaN where a gap stayed; V/V."""
    out = np.full((len(channels), max(last - first, 0)), np.nan, np.float32)
    for start, data in blocks(stream, first, last):
        a, b = max(start, first), min(start + data.shape[1], last)
        out[:, a - first : b - first] = data[channels, a - start : b - start]
    return out
