"""What the screens get of each block: readings and a few bins of lowest, highest and last.

Layout, little-endian: uint16 channels, uint16 bins, uint32 zero, float64 seconds of
device time at the end, float64 seconds of the run at the end (negative: no run); then per
channel float32 id, reading, raw in mV/V, clipped (0 or 1), and per bin lowest, highest,
last. Quantities are SI.
"""

import struct

import numpy as np
from yoke_core.block import BlockDigest

from yoke_server.calibrate.scaling import LiveScaling
from yoke_server.wire.frozen import FrozenChannel

BINS = 5
HEADER = struct.Struct("<HHIdd")
NO_RUN = -1.0


class LiveFrames:
    """Makes frames for the wired channels of a setup."""

    def __init__(self, channels: list[FrozenChannel]) -> None:
        self._rows = np.array([c.input_number - 1 for c in channels], dtype=np.intp)
        self._scaling = LiveScaling(channels) if channels else None
        self._turned = [i for i, c in enumerate(channels) if c.reversed]
        self._table = np.zeros((len(channels), 4 + 3 * BINS), "<f4")
        self._table[:, 0] = [c.id for c in channels]

    def encode(self, digest: BlockDigest, end_s: float, run_s: float = NO_RUN) -> bytes:
        """A frame; ``end_s`` and ``run_s`` are device and run time at the end of the block."""
        width = digest.shown.shape[1]
        header = HEADER.pack(len(self._rows), width // 3, 0, end_s, run_s)
        if self._scaling is None:
            return header
        rows, table = self._rows, self._table[:, : 3 + width]
        scaled = self._scaling.apply(digest.shown[rows])
        table[:, 1], table[:, 4:] = scaled[:, 0], scaled[:, 1:]
        table[:, 2] = digest.mean[rows] * 1e3
        table[:, 3] = digest.clipped[rows]
        for row in self._turned:  # its lowest signal is its highest quantity
            table[row, 4::3], table[row, 5::3] = scaled[row, 2::3], scaled[row, 1::3]
        return header + table.tobytes()
