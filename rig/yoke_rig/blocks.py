"""The binary block of samples (docs/amplifier-protocol.md, "Data")."""

import struct
from dataclasses import dataclass
from functools import reduce

import numpy as np
from isal.isal_zlib import crc32
from numpy.typing import NDArray

MAGIC = b"YBA1"
HEADER = struct.Struct("<4sIIQQdHHI")
CHECKED = 8  # where in the header begins what the checksum is of
AGAIN = 1


@dataclass(frozen=True, slots=True)
class SampleBlock:
    """Counts of all inputs, sample-interleaved, from ``time_ns`` on."""

    acquisition: int
    sequence: int
    time_ns: int
    rate: float
    full_scale: NDArray[np.float32]  # V/V per input
    counts: NDArray[np.int32]  # (samples, inputs)

    def encode(self, again: bool = False) -> bytes:
        samples, inputs = self.counts.shape
        head = HEADER.pack(
            MAGIC,
            0,
            self.acquisition,
            self.sequence,
            self.time_ns,
            self.rate,
            inputs,
            AGAIN if again else 0,
            samples,
        )
        scales = np.ascontiguousarray(self.full_scale, "<f4").data
        counts = np.ascontiguousarray(self.counts, "<i4").data
        checked = head[CHECKED:], scales, counts
        checksum = reduce(lambda value, part: crc32(part, value), checked, 0)
        return b"".join((MAGIC, struct.pack("<I", checksum), *checked))
