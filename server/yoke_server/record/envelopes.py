"""Envelope rows of a stream: made while recording, taken up again from the last rows."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from yoke_core.envelope import Envelope, EnvelopeFolder

from yoke_server.record.levels import FACTOR, LEVELS

# Pairs a row holds, by level. What is not yet in a row is read from the level below, so rows are
# short; those of the finest are longer, since there are so many of them.
ROW_PAIRS = (1024, 256, 128, 64, 32)

Samples = NDArray[np.float32]
EnvelopeValues = tuple[int, int, int, int, bytes]  # stream, level, first pair, pairs, data


def pack(pairs: Envelope) -> bytes:
    """Channel by channel the lows, then the highs."""
    return np.stack([pairs.low, pairs.high], axis=1).tobytes()


def unpack(data: bytes, pairs: int) -> Envelope:
    table = np.frombuffer(data, "<f4").reshape(-1, 2, pairs)
    return Envelope(table[:, 0], table[:, 1])


@dataclass(slots=True)
class _Level:
    """One level's folder and the pairs that do not yet fill a row."""

    folder: EnvelopeFolder
    row_pairs: int
    first_pair: int = 0
    waiting: list[Envelope] = field(default_factory=list)
    count: int = 0

    def keep(self, pairs: Envelope) -> None:
        if pairs.low.shape[1]:
            self.waiting.append(pairs)
            self.count += pairs.low.shape[1]

    def take(self, least: int) -> list[tuple[int, Envelope]]:
        """(first pair, pairs) of each row that has at least ``least`` pairs."""
        if self.count < least or not self.count:
            return []
        low = np.concatenate([e.low for e in self.waiting], axis=1)
        high = np.concatenate([e.high for e in self.waiting], axis=1)
        rows, start = [], 0
        while low.shape[1] - start >= least and start < low.shape[1]:
            end = min(start + self.row_pairs, low.shape[1])
            rows.append((self.first_pair + start, Envelope(low[:, start:end], high[:, start:end])))
            start = end
        self.waiting = [Envelope(low[:, start:], high[:, start:])]
        self.first_pair += start
        self.count -= start
        return rows


class EnvelopeWriter:
    """Folds samples into all levels and gives the rows that became full."""

    def __init__(self, stream_id: int, channels: int) -> None:
        self._stream_id = stream_id
        self._levels = [_Level(EnvelopeFolder(channels, FACTOR), size) for size in ROW_PAIRS]

    def push(self, samples: Samples) -> list[EnvelopeValues]:
        """Take (channels, n) samples."""
        return self._push(0, Envelope(samples, samples))

    def _push(self, index: int, finer: Envelope) -> list[EnvelopeValues]:
        if index == LEVELS or not finer.low.shape[1]:
            return []
        level = self._levels[index]
        pairs = level.folder.push(finer.low, finer.high)
        level.keep(pairs)
        return self._rows(index, level.row_pairs) + self._push(index + 1, pairs)

    def _rows(self, index: int, least: int) -> list[EnvelopeValues]:
        return [
            (self._stream_id, index + 1, first, row.low.shape[1], pack(row))
            for first, row in self._levels[index].take(least)
        ]

    def finish(self) -> list[EnvelopeValues]:
        """The rows that are not full, and the groups that are not."""
        rows: list[EnvelopeValues] = []
        for index, level in enumerate(self._levels):
            last = level.folder.finish()
            level.keep(last)
            if index + 1 < LEVELS:
                rows += self._push(index + 1, last)
            rows += self._rows(index, 1)
        return rows

    def resume(
        self,
        reached: list[int],
        samples: Callable[[int], Samples],
        pairs: Callable[[int, int], Envelope],
    ) -> list[EnvelopeValues]:
        """Go on after a restart; the cost is a row's worth a level, however long the stream.

        reached : pairs already in rows, by level
        samples(first) : the stored samples from ``first`` on
        pairs(level, first) : the stored pairs of a level (from 1) from ``first`` on
        """
        rows: list[EnvelopeValues] = []
        for index, level in enumerate(self._levels):
            level.first_pair = reached[index]
            start = reached[index] * FACTOR  # in samples, or in pairs of the level below
            if index == 0:
                stored = samples(start)
                finer = Envelope(stored, stored)
            else:
                below = self._levels[index - 1]
                rest = [e for e in below.waiting if e.low.shape[1]]
                known = [pairs(index, start), *rest]
                finer = Envelope(
                    np.concatenate([e.low for e in known], axis=1),
                    np.concatenate([e.high for e in known], axis=1),
                )
            level.keep(level.folder.push(finer.low, finer.high))
        for index, level in enumerate(self._levels):
            rows += self._rows(index, level.row_pairs)
        return rows
