"""What the screens get of each block: readings and a few bins of lowest, highest and last.

Layout, little-endian: uint16 channels, uint16 bins, uint32 flags (bit 0 recording),
float64 seconds of device time at the end; then per channel float32 id, reading, raw in mV/V,
clipped (0 or 1), and per bin lowest, highest, last. Quantities are SI.
"""

import struct

import numpy as np
from numpy.typing import NDArray

from yoke_server.bench.drivers.base import SampleBlock
from yoke_server.calibrate.scaling import LiveScaling
from yoke_server.record.recorder.session import planar_ratios
from yoke_server.wire.frozen import FrozenChannel

BINS = 5
HEADER = struct.Struct("<HHId")
RECORDING = 1


class LiveFrames:
    """Makes frames for the wired channels of a setup."""

    def __init__(self, channels: list[FrozenChannel], full_counts: int) -> None:
        self._columns = np.array([c.input_number - 1 for c in channels], dtype=np.intp)
        self._ids = np.array([c.id for c in channels], dtype=np.float32)
        self._scaling = LiveScaling(channels) if channels else None
        self._full_counts = full_counts
        self._turned = np.array([c.reversed for c in channels], dtype=bool)

    def encode(self, block: SampleBlock, recording: bool) -> bytes:
        end_s = block.time_ns * 1e-9 + block.samples / block.rate_hz
        bins = min(BINS, block.samples)
        header = HEADER.pack(len(self._ids), bins, RECORDING if recording else 0, end_s)
        if self._scaling is None:
            return header
        ratios = planar_ratios(block, self._columns, self._full_counts)
        starts = np.arange(bins) * block.samples // bins
        ends = np.append(starts[1:], block.samples) - 1
        mean = ratios.mean(axis=1)
        clipped = (np.abs(block.counts[:, self._columns]) >= self._full_counts).any(axis=0)
        low = np.minimum.reduceat(ratios, starts, axis=1)
        high = np.maximum.reduceat(ratios, starts, axis=1)
        low[self._turned], high[self._turned] = high[self._turned], low[self._turned]
        points = np.stack([low, high, ratios[:, ends]], axis=2).reshape(len(self._ids), -1)
        scaled = self._scaling.apply(np.column_stack([mean, points]))
        head = np.column_stack([self._ids, scaled[:, 0], mean * 1e3, clipped])
        return header + np.column_stack([head, scaled[:, 1:]]).astype("<f4").tobytes()


def moments(block: SampleBlock, columns: list[int], full_counts: int) -> NDArray[np.float64]:
    """Mean, deviation and clipped of each column, shape (columns, 3); ratios in V/V."""
    ratios = planar_ratios(block, np.array(columns), full_counts).astype(float)
    clipped = (np.abs(block.counts[:, columns]) >= full_counts).any(axis=0)
    return np.column_stack([ratios.mean(axis=1), ratios.std(axis=1), clipped])
