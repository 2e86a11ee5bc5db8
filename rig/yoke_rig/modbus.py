"""Modbus over TCP, the part that an indicator needs: reading registers and writing one.

Modbus Application Protocol V1.1b3 (6.3, 6.4, 6.6) in the frames of the Messaging on TCP/IP
Implementation Guide V1.0b (4.1).
"""

import asyncio
import struct
from typing import Protocol

HEADER = struct.Struct(">HHHB")  # transaction, protocol (0), bytes that follow, unit
REQUEST = struct.Struct(">BHH")  # function, first register, count or value
READ, READ_INPUT, WRITE_ONE = 3, 4, 6
MAX_AT_ONCE = 125
MAX_FRAME_BYTES = 260
UNKNOWN_FUNCTION, UNKNOWN_ADDRESS, UNKNOWN_VALUE = 1, 2, 3


class Registers(Protocol):
    def registers(self) -> list[int]: ...
    def write(self, register: int, value: int) -> bool: ...


def answer(device: Registers, request: bytes) -> bytes:
    """The answer to one request, or an exception as the protocol has it."""
    function = request[0]
    if function not in (READ, READ_INPUT, WRITE_ONE):
        return _exception(function, UNKNOWN_FUNCTION)
    if len(request) != REQUEST.size:
        return _exception(function, UNKNOWN_VALUE)
    _, first, count = REQUEST.unpack(request)
    if function == WRITE_ONE:
        return request if device.write(first, count) else _exception(function, UNKNOWN_VALUE)
    found = device.registers()
    if not 0 < count <= MAX_AT_ONCE:
        return _exception(function, UNKNOWN_VALUE)
    if first + count > len(found):
        return _exception(function, UNKNOWN_ADDRESS)
    return struct.pack(f">BB{count}H", function, 2 * count, *found[first : first + count])


def _exception(function: int, code: int) -> bytes:
    return bytes([function | 0x80, code])


async def serve_registers(
    device: Registers, reader: asyncio.StreamReader, writer: asyncio.StreamWriter
) -> None:
    """Answer requests until the peer leaves, or sends what is no Modbus."""
    try:
        while True:
            head = await reader.readexactly(HEADER.size)
            transaction, protocol, length, unit = HEADER.unpack(head)
            if protocol or not 1 < length <= MAX_FRAME_BYTES:
                return
            said = answer(device, await reader.readexactly(length - 1))
            writer.write(HEADER.pack(transaction, 0, 1 + len(said), unit) + said)
            await writer.drain()
    except (ConnectionError, asyncio.IncompleteReadError, asyncio.CancelledError):
        pass
