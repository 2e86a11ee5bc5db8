"""What the screens get of each block: readings, extremes, and a few bins for the strips.

Little-endian. Header: uint32 layout, uint16 channels, uint16 bins, uint32 zero twice, float64
bench seconds at the block's end, float64 seconds of the run there (negative: no run). Then
per channel float32: its place in the layout, reading, raw (mV/V), lowest and highest since
reset, share of clipped samples, mean and deviation over the last second; and per bin lowest,
highest, last. Quantities are SI. Which channel stands at which place the layout says, which
comes with the bench's state.
"""

import struct
from collections import deque
from itertools import count
from typing import Any

import numpy as np
from numpy.typing import NDArray
from yoke_core.block import BlockDigest

from yoke_server.calibrate.scaling import LiveScaling
from yoke_server.wire.document import FrozenChannel

BINS = 5
HEADER = struct.Struct("<IHHIIdd")
HEAD = 8
NO_RUN = -1.0
WINDOW_BLOCKS = 10  # a second

Array = NDArray[np.float64]
_ids = count(1)


class LiveFrames:
    """Makes the frames of one device's wired channels; keeps their peaks and statistics."""

    def __init__(self, device: str, channels: list[FrozenChannel]) -> None:
        self.keys = [c.key for c in channels]
        self.layout: dict[str, Any] = {"id": next(_ids), "device": device, "channels": self.keys}
        self._rows = np.array([c.input_number - 1 for c in channels], dtype=np.intp)
        self._scaling = LiveScaling(channels) if channels else None
        self._turned = [i for i, c in enumerate(channels) if c.reversed]
        self._table = np.zeros((len(channels), HEAD + 3 * BINS), "<f4")
        self._table[:, 0] = np.arange(len(channels))
        self._peaks = np.full((len(channels), 2), np.nan)
        self._window: deque[Array] = deque(maxlen=WINDOW_BLOCKS)

    def take_over(self, older: "LiveFrames", same: set[str]) -> None:
        """Keep the peaks of channels that are measured as before."""
        for i, key in enumerate(self.keys):
            if key in same:
                self._peaks[i] = older._peaks[older.keys.index(key)]

    def reset_peaks(self, keys: list[str]) -> None:
        """Lowest and highest begin anew; for all channels without ``keys``."""
        for i, key in enumerate(self.keys):
            if not keys or key in keys:
                self._peaks[i] = np.nan

    def encode(self, digest: BlockDigest, end_s: float, run_s: float = NO_RUN) -> bytes:
        """A frame; ``end_s`` and ``run_s`` are bench and run time at the end of the block."""
        width = digest.shown.shape[1]
        layout = self.layout["id"]
        header = HEADER.pack(layout, len(self.keys), width // 3, 0, 0, end_s, run_s)
        if self._scaling is None:
            return header
        rows, table = self._rows, self._table[:, : HEAD - 1 + width]
        scaled = self._scaling.apply(digest.shown[rows])
        table[:, 1], table[:, HEAD:] = scaled[:, 0], scaled[:, 1:]
        for row in self._turned:  # its lowest signal is its highest quantity
            table[row, HEAD::3], table[row, HEAD + 1 :: 3] = scaled[row, 2::3], scaled[row, 1::3]
        table[:, 2] = digest.mean[rows] * 1e3
        table[:, 3:5] = self._new_peaks(scaled)
        table[:, 5] = digest.clipped[rows] / digest.ratios.shape[1]
        table[:, 6:8] = self._statistics(scaled[:, 0], digest.deviation[rows])
        return header + table.tobytes()

    def _new_peaks(self, scaled: Array) -> Array:
        ends = scaled[:, 1:]
        self._peaks[:, 0] = np.fmin(self._peaks[:, 0], np.fmin.reduce(ends, axis=1))
        self._peaks[:, 1] = np.fmax(self._peaks[:, 1], np.fmax.reduce(ends, axis=1))
        return self._peaks

    def _statistics(self, mean: Array, deviation: Array) -> Array:
        """Mean and deviation over the window, from those of its blocks."""
        assert self._scaling is not None
        spread = deviation * np.abs(self._scaling.slope)
        self._window.append(np.stack([mean, spread]))
        table = np.array(self._window)
        middle = table[:, 0].mean(axis=0)
        square = (table[:, 1] ** 2 + (table[:, 0] - middle) ** 2).mean(axis=0)
        return np.stack([middle, np.sqrt(square)], axis=1)
