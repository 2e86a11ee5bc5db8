"""Decoding the amplifier's binary blocks (docs/amplifier-protocol.md): bytes in, blocks out."""

import struct
import zlib

import numpy as np

from yoke_server.bench.drivers.base import DriverError, SampleBlock

MAGIC = b"YBA1"
HEADER = struct.Struct("<4sIIQQdHHI")
AGAIN = 1
MOST_INPUTS = 64
MOST_SAMPLES = 100_000
HIGHEST_RATE = 1e7  # Hz
FARTHEST = 2**62  # of numbers and nanoseconds: the database counts to 2^63


class BlockReader:
    """Collects bytes; `next_block` gives a block, or None when more bytes are needed."""

    def __init__(self) -> None:
        self._buffer = bytearray()

    def feed(self, data: bytes) -> None:
        self._buffer += data

    def next_block(self) -> SampleBlock | None:
        """Raises DriverError when the bytes are not blocks of this protocol."""
        if len(self._buffer) < HEADER.size:
            return None
        magic, checksum, acquisition, sequence, time_ns, rate, inputs, flags, samples = (
            HEADER.unpack_from(self._buffer)
        )
        if magic != MAGIC or not 0 < inputs <= MOST_INPUTS or not 0 < samples <= MOST_SAMPLES:
            raise DriverError("The amplifier's data port sends something that is not its protocol.")
        size = HEADER.size + 4 * inputs * (1 + samples)
        if len(self._buffer) < size:
            return None
        raw = bytes(self._buffer[:size])
        del self._buffer[:size]
        if zlib.crc32(memoryview(raw)[8:]) != checksum:
            raise DriverError(f"Block {sequence} arrived damaged: its checksum differs.")
        full_scale = np.frombuffer(raw, "<f4", inputs, HEADER.size)
        if not (
            0 < rate <= HIGHEST_RATE
            and max(sequence, time_ns) <= FARTHEST
            and np.isfinite(full_scale).all()
            and (full_scale > 0).all()
        ):
            raise DriverError(f"Block {sequence} says impossible things of itself.")
        counts = np.frombuffer(raw, "<i4", inputs * samples, HEADER.size + 4 * inputs)
        return SampleBlock(
            acquisition, sequence, time_ns, rate, full_scale,
            counts.reshape(samples, inputs), bool(flags & AGAIN),
        )  # fmt: skip
