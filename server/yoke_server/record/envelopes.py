"""Envelope rows of a stream: made while recording, rebuilt after a crash."""

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from yoke_core.envelope import Envelope, EnvelopeFolder

from yoke_server.record.store import EnvelopeValues

FACTOR = 16
LEVELS = 5  # the coarsest pair spans 16^5, about a million samples
PAIRS_A_ROW = 4096

Samples = NDArray[np.float32]


@dataclass(slots=True)
class _Level:
    """One level's folder and the pairs that do not yet fill a row."""

    folder: EnvelopeFolder
    first_pair: int = 0
    waiting: list[Envelope] = field(default_factory=list)
    count: int = 0


class EnvelopeWriter:
    """Folds samples into all levels and gives the rows that became full."""

    def __init__(self, stream_id: int, channels: int) -> None:
        self._stream_id = stream_id
        self._levels = [_Level(EnvelopeFolder(channels, FACTOR)) for _ in range(LEVELS)]

    def push(self, samples: Samples) -> list[EnvelopeValues]:
        """Take (channels, n) samples, NaN where they are missing."""
        return self._push(0, Envelope(samples, samples))

    def _push(self, index: int, finer: Envelope) -> list[EnvelopeValues]:
        if index == LEVELS or not finer.low.shape[1]:
            return []
        level = self._levels[index]
        pairs = level.folder.push(finer.low, finer.high)
        return self._keep(index, pairs) + self._push(index + 1, pairs)

    def _keep(self, index: int, pairs: Envelope) -> list[EnvelopeValues]:
        level = self._levels[index]
        if pairs.low.shape[1]:
            level.waiting.append(pairs)
            level.count += pairs.low.shape[1]
        return self._rows(index, PAIRS_A_ROW) if level.count >= PAIRS_A_ROW else []

    def _rows(self, index: int, size: int) -> list[EnvelopeValues]:
        level = self._levels[index]
        low = np.concatenate([e.low for e in level.waiting], axis=1)
        high = np.concatenate([e.high for e in level.waiting], axis=1)
        rows: list[EnvelopeValues] = []
        start = 0
        while start < low.shape[1] and low.shape[1] - start >= min(size, PAIRS_A_ROW):
            end = min(start + PAIRS_A_ROW, low.shape[1])
            for c in range(low.shape[0]):
                data = low[c, start:end].tobytes() + high[c, start:end].tobytes()
                first = level.first_pair + start
                rows.append((self._stream_id, c, index + 1, first, end - start, data))
            start = end
        level.waiting = [Envelope(low[:, start:], high[:, start:])]
        level.first_pair += start
        level.count -= start
        return rows

    def finish(self) -> list[EnvelopeValues]:
        """The rows that are not full, and the groups that are not."""
        rows: list[EnvelopeValues] = []
        for index, level in enumerate(self._levels):
            last = level.folder.finish()
            rows += self._keep(index, last)
            if index + 1 < LEVELS:
                rows += self._push(index + 1, last)
            if level.count:
                rows += self._rows(index, 1)
        return rows
