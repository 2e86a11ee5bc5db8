"""Decoding the amplifier's binary blocks (docs/amplifier-protocol.md): bytes in, blocks out."""

import math
import socket
import struct
from collections.abc import Callable, Iterator

import numpy as np
from isal.isal_zlib import crc32

from yoke_server.bench.drivers.base import DriverError, SampleBlock

MAGIC = b"YBA1"
HEADER = struct.Struct("<4sIIQQdHHI")
COUNT, SCALE = np.dtype("<i4"), np.dtype("<f4")
AGAIN = 1
MAX_INPUTS = 64
MAX_SAMPLES = 100_000
HIGHEST_RATE = 1e7  # Hz
FARTHEST = 2**62  # of numbers and nanoseconds: the database counts to 2^63
MAX_AT_ONCE = 1 << 18  # bytes; well below what the system holds for a socket
Fill = Callable[[memoryview], None]


def blocks_of(link: socket.socket) -> Iterator[SampleBlock]:
    """Blocks as they arrive; raises DriverError when the link is lost or what comes is none."""

    def fill(view: memoryview) -> None:
        while view:
            # Sleep until it is all here: a wake-up for each packet costs more than the bytes.
            least = min(len(view), MAX_AT_ONCE)
            try:
                link.setsockopt(socket.SOL_SOCKET, socket.SO_RCVLOWAT, least)
                got = link.recv_into(view)
            except OSError as error:
                raise DriverError("no samples arrive from the device.") from error
            if not got:
                raise DriverError("the device closed the data connection.")
            view = view[got:]

    while True:
        yield read_block(fill)


def read_block(fill: Fill) -> SampleBlock:
    """The next block; ``fill`` fills a buffer with the next bytes.

    Raises DriverError when the bytes are not blocks of this protocol.
    """
    head = bytearray(HEADER.size)
    fill(memoryview(head))
    magic, checksum, acquisition, sequence, time_ns, rate, inputs, flags, samples = HEADER.unpack(
        head
    )
    if magic != MAGIC or not 0 < inputs <= MAX_INPUTS or not 0 < samples <= MAX_SAMPLES:
        raise DriverError("The amplifier's data port sends something that is not its protocol.")
    body = np.empty(inputs * (1 + samples), COUNT)
    view = body.data.cast("B")
    fill(view)
    if crc32(view, crc32(head[8:])) != checksum:
        raise DriverError(f"Block {sequence} arrived damaged: its checksum differs.")
    body.setflags(write=False)
    full_scale = body[:inputs].view(SCALE)
    scales = full_scale.tolist()
    if not (
        0 < rate <= HIGHEST_RATE
        and max(sequence, time_ns) <= FARTHEST
        and all(map(math.isfinite, scales))
        and min(scales) > 0
    ):
        raise DriverError(f"Block {sequence} says impossible things of itself.")
    return SampleBlock(
        acquisition,
        sequence,
        time_ns,
        rate,
        full_scale,
        body[inputs:].reshape(samples, inputs),
        bool(flags & AGAIN),
    )
