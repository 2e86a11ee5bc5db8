"""A row of samples as it fills, block by block, until it is given to the database."""

from math import ceil, floor

import numpy as np
from yoke_core.arrays import Signals
from yoke_core.streaming.block import BlockSummary, Place

from yoke_server.bench.drivers.base import SampleBlock

ROW_SECONDS = 0.5  # samples are on their way to the disk after so long, at the latest
ROW_BYTES = 1 << 20


class BlockBuffer:
    """Holds so many blocks like its first as make about half a second, or the most bytes."""

    def __init__(self, channels: int, first: SampleBlock, sample_bytes: int) -> None:
        by_time = floor(ROW_SECONDS * first.rate_hz / first.samples + 0.5)
        by_size = ceil(ROW_BYTES / (sample_bytes * channels * first.samples))
        blocks = max(1, min(by_time, by_size))
        self._signals = np.empty(
            (channels, blocks * first.samples), np.float32 if sample_bytes == 4 else np.float64
        )
        self.filled = 0

    def has_room(self, samples: int) -> bool:
        return self.filled + samples <= self._signals.shape[1]

    @property
    def place(self) -> Place:
        """Where the next block's signals belong."""
        return self._signals, self.filled

    def push_block(self, summary: BlockSummary, columns: list[int]) -> None:
        """The next block's signals; they are not copied where they were put in their place."""
        start, self.filled = self.filled, self.filled + summary.samples
        row, at = summary.place
        if row is not self._signals or at != start:
            self._signals[:, start : self.filled] = summary.ratios[columns]

    def end(self) -> Signals:
        """All that it holds, as one piece."""
        return np.ascontiguousarray(self._signals[:, : self.filled])
