"""What lies in the memories of the stand-ins' plugs: data sheets after IEEE 1451.4, template 33.

Packed here by the rig's own means: every field by hand, the lowest bit first.
"""

import struct

PAGE = 32
MEMORY = 128  # bytes
BLANK = b"\xff" * MEMORY  # a memory that nothing was written to
NEWTON, METRE = 4, 16  # numbers of the measurands
FULL = 2
WIDE = 2
NOTHING_TOLD = -1


def transducer(
    serial: str, number: int, measurand: int, capacity: float, output: float, calibrated: int
) -> bytes:
    """A full bridge of 350 ohm; ``calibrated`` in days since 1998-01-01; output in V/V."""
    fields = [
        (41, 14), (number, 15), (0, 5), (1, 6), (number, 24), (0, 2), (33, 8), (measurand, 6),
        (_single(0.0), 32), (_single(capacity), 32), (WIDE, 2), (_single(0.0), 32),
        (_single(output), 32), (FULL, 2), (round((350 - 1) / 0.1), 18), (NOTHING_TOLD, 6),
        (round((5 - 0.1) / 0.1), 9), (round((1 - 0.1) / 0.1), 9), (round((10 - 0.1) / 0.1), 9),
        (calibrated, 16), (0, 15), (365, 12), (NOTHING_TOLD, 11), (3, 2), (0, 1),
        *((ord(c), 7) for c in serial + "\0"),
    ]  # fmt: skip
    packed = place = 0
    for value, bits in fields:
        packed |= (value & ((1 << bits) - 1)) << place
        place += bits
    data = packed.to_bytes(MEMORY - MEMORY // PAGE, "little")
    pages = [data[i : i + PAGE - 1] for i in range(0, len(data), PAGE - 1)]
    return b"".join(bytes([-sum(page) % 256]) + page for page in pages)


def _single(value: float) -> int:
    return int.from_bytes(struct.pack("<f", value), "little")
