"""The rig behind its sockets."""

import asyncio
import contextlib

import pytest
from yoke_rig.amplifier import Amplifier
from yoke_rig.blocks import HEADER
from yoke_rig.serve import LONGEST_LINE, Rig, serve
from yoke_rig.world import World

from tests.processes import free_ports


def with_rig(scenario, speed=50.0):
    """Run ``scenario(rig, port)`` beside a served rig."""

    async def main():
        port = free_ports()
        rig = Rig(Amplifier(World()), speed)
        task = asyncio.create_task(serve(rig, "127.0.0.1", port, port + 1, port + 2))
        await asyncio.sleep(0.1)
        try:
            return await asyncio.wait_for(scenario(rig, port), 10)
        finally:
            task.cancel()
            with contextlib.suppress(asyncio.CancelledError):
                await task

    return asyncio.run(main())


async def ask(port, line):
    reader, writer = await asyncio.open_connection("127.0.0.1", port)
    writer.write(line.encode() + b"\n")
    answer = await asyncio.wait_for(reader.readline(), 2)
    writer.close()
    return answer.decode().strip()


async def read_block(reader):
    header = HEADER.unpack(await reader.readexactly(HEADER.size))
    inputs, samples = header[6], header[8]
    await reader.readexactly(4 * inputs * (1 + samples))
    return header[3], header[7]  # sequence, flags


def test_control_and_frame_answer_on_their_ports():
    async def scenario(rig, port):
        return await ask(port, "*IDN?"), await ask(port + 2, "*IDN?")

    amplifier, frame = with_rig(scenario)
    assert "BA8" in amplifier
    assert "LF25" in frame


def test_every_listener_gets_every_block_in_order():
    async def scenario(rig, port):
        links = [await asyncio.open_connection("127.0.0.1", port + 1) for _ in range(2)]
        return [[(await read_block(reader))[0] for _ in range(10)] for reader, _ in links]

    for sequences in with_rig(scenario):
        assert sequences == list(range(sequences[0], sequences[0] + 10))


def test_withheld_blocks_come_when_asked_for_again():
    async def scenario(rig, port):
        reader, kept_open = await asyncio.open_connection("127.0.0.1", port + 1)
        _, control = await asyncio.open_connection("127.0.0.1", port)
        first, _ = await read_block(reader)
        control.write(b"TEST:WITHhold 3\n")
        last = first
        while True:
            sequence, _ = await read_block(reader)
            if sequence > last + 1:
                break
            last = sequence
        control.write(f"DATA:AGAin {last + 1},{sequence - 1}\n".encode())
        again = []
        while len(again) < sequence - last - 1:
            number, flags = await read_block(reader)
            if flags:
                again.append(number)
        kept_open.close()
        return again, list(range(last + 1, sequence))

    again, missing = with_rig(scenario)
    assert again == missing
    assert len(missing) == 3


def test_a_line_too_long_ends_that_connection_only():
    async def scenario(rig, port):
        reader, writer = await asyncio.open_connection("127.0.0.1", port)
        writer.write(b"x" * (4 * LONGEST_LINE))
        ended = await asyncio.wait_for(reader.read(), 2)
        return ended, await ask(port, "*TST?")

    assert with_rig(scenario) == (b"", "0")


def test_a_speed_factor_runs_faster_than_life():
    async def scenario(rig, port):
        before = rig.amplifier.sequence
        await asyncio.sleep(1.0)
        return rig.amplifier.sequence - before

    assert with_rig(scenario, speed=10.0) == pytest.approx(100, rel=0.3)
