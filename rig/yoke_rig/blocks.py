"""The binary block of samples (docs/amplifier-protocol.md, "Data")."""

import struct
import zlib
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

MAGIC = b"YBA1"
HEADER = struct.Struct("<4sIIQQdHHI")
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
        body = self.full_scale.astype("<f4").tobytes() + self.counts.astype("<i4").tobytes()
        rest = HEADER.pack(
            MAGIC, 0, self.acquisition, self.sequence, self.time_ns, self.rate,
            inputs, AGAIN if again else 0, samples,
        )  # fmt: skip
        checksum = zlib.crc32(body, zlib.crc32(rest[8:]))
        return MAGIC + struct.pack("<I", checksum) + rest[8:] + body
