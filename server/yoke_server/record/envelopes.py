"""Building the envelope rows of a stream; can be resumed from the last stored rows."""

from collections.abc import Callable

import numpy as np
from yoke_core.arrays import Signals
from yoke_core.streaming.envelope import Envelope, EnvelopeFolder

from yoke_server.record.levels import FACTOR, LEVELS

# Pairs a row holds, by level. What is not yet in a row is read from the level below, so rows are
# short; those of the finest are longer, since there are so many of them.
ROW_PAIRS = (1024, 256, 128, 64, 32)

EnvelopeValues = tuple[int, int, int, int, bytes]  # stream, level, first pair, pairs, data


def unpack(data: bytes, pairs: int) -> Envelope:
    """Channel by channel the lows, then the highs."""
    table = np.frombuffer(data, "<f4").reshape(-1, 2, pairs)
    return Envelope(table[:, 0], table[:, 1])


class _Level:
    """One level's folder, and the row that it fills."""

    def __init__(self, channels: int, row_pairs: int) -> None:
        self.folder = EnvelopeFolder(channels, FACTOR)
        self.first_pair = 0
        self._row = np.empty((channels, 2, row_pairs), "<f4")
        self._filled = 0

    def keep(self, pairs: Envelope) -> list[tuple[int, int, bytes]]:
        """(first pair, pairs, data) of the rows that become full."""
        rows, count, most = [], pairs.low.shape[1], self._row.shape[2]
        start = 0
        while start < count:
            end = min(start + most - self._filled, count)
            place = slice(self._filled, self._filled + end - start)
            self._row[:, 0, place] = pairs.low[:, start:end]
            self._row[:, 1, place] = pairs.high[:, start:end]
            self._filled, start = place.stop, end
            if self._filled == most:
                rows += self.end_row()
        return rows

    def end_row(self) -> list[tuple[int, int, bytes]]:
        """The row as far as it is filled, if it is begun; the next one begins behind it."""
        first, count = self.first_pair, self._filled
        self.first_pair, self._filled = first + count, 0
        return [(first, count, self._row[:, :, :count].tobytes())] if count else []


class EnvelopeWriter:
    """Folds samples into all levels and gives the rows that became full."""

    def __init__(self, stream_id: int, channels: int) -> None:
        self._stream_id = stream_id
        self._levels = [_Level(channels, size) for size in ROW_PAIRS]

    def push(self, samples: Signals) -> list[EnvelopeValues]:
        """Take (channels, n) samples."""
        return self._push(0, Envelope(samples, samples))

    def _push(self, index: int, finer: Envelope) -> list[EnvelopeValues]:
        if index == LEVELS or not finer.low.shape[1]:
            return []
        level = self._levels[index]
        pairs = level.folder.push(finer.low, finer.high)
        return self._rows(index, level.keep(pairs)) + self._push(index + 1, pairs)

    def _rows(self, index: int, rows: list[tuple[int, int, bytes]]) -> list[EnvelopeValues]:
        return [(self._stream_id, index + 1, *row) for row in rows]

    def finish(self) -> list[EnvelopeValues]:
        """The rows that are not full, and the groups that are not."""
        rows: list[EnvelopeValues] = []
        for index, level in enumerate(self._levels):
            last = level.folder.finish()
            rows += self._rows(index, level.keep(last))
            rows += self._push(index + 1, last)
            rows += self._rows(index, level.end_row())
        return rows

    def resume(
        self,
        reached: list[int],
        samples: Callable[[int], Signals],
        pairs: Callable[[int, int], Envelope],
    ) -> list[EnvelopeValues]:
        """Go on after a restart; the cost is a row's worth a level, however long the stream.

        reached : pairs already in rows, by level
        samples(first) : the stored samples from ``first`` on
        pairs(level, first) : the stored pairs of a level (from 1) from ``first`` on
        """
        rows: list[EnvelopeValues] = []
        fresh: Envelope | None = None  # pairs of the level below that are in no row yet
        for index, level in enumerate(self._levels):
            level.first_pair = reached[index]
            start = reached[index] * FACTOR  # in samples, or in pairs of the level below
            if fresh is None:
                stored = samples(start)
                finer = Envelope(stored, stored)
            else:
                finer = _joined(pairs(index, start), fresh)
            fresh = level.folder.push(finer.low, finer.high)
            rows += self._rows(index, level.keep(fresh))
        return rows


def _joined(first: Envelope, then: Envelope) -> Envelope:
    return Envelope(
        np.concatenate([first.low, then.low], axis=1),
        np.concatenate([first.high, then.high], axis=1),
    )
