"""TCP servers of the rig: amplifier control, amplifier data, load frame."""

import asyncio
import time
from dataclasses import dataclass, field

from yoke_rig.amplifier import BLOCK_SECONDS, Amplifier
from yoke_rig.device_commands import amplifier_commands, frame_commands
from yoke_rig.scpi import Commands

LONGEST_LINE = 1024
LONGEST_BACKLOG = 64 * 1024 * 1024  # bytes a slow reader may be behind before it is cut off


@dataclass(slots=True)
class Rig:
    """The devices of one bench and whoever listens to the samples."""

    amplifier: Amplifier
    speed: float = 1.0
    listeners: set[asyncio.StreamWriter] = field(default_factory=set)

    def resend(self, first: int, last: int) -> None:
        for block in self.amplifier.again(first, last):
            self._send(block.encode(again=True))

    def _send(self, data: bytes) -> None:
        for writer in list(self.listeners):
            if writer.transport.get_write_buffer_size() > LONGEST_BACKLOG:
                writer.transport.abort()
            else:
                writer.write(data)

    async def run(self) -> None:
        """Make blocks in step with the wall clock times the speed factor."""
        due = time.monotonic()
        while True:
            if self.amplifier.running:
                block = self.amplifier.next_block()
                if self.amplifier.drop_next > 0:
                    self.amplifier.drop_next -= 1
                else:
                    self._send(block.encode())
            due = max(due + BLOCK_SECONDS / self.speed, time.monotonic() - 1.0)
            await asyncio.sleep(max(0.0, due - time.monotonic()))

    async def on_listener(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        self.listeners.add(writer)
        try:
            while await reader.read(1024):
                pass
        except (ConnectionError, asyncio.CancelledError):
            pass
        finally:
            self.listeners.discard(writer)
            writer.close()


async def serve_commands(
    commands: Commands, reader: asyncio.StreamReader, writer: asyncio.StreamWriter
) -> None:
    """Answer lines until the peer leaves; a line too long ends the connection."""
    try:
        while line := await reader.readline():
            answer = commands.answer(line.decode("ascii", "replace"))
            if answer is not None:
                writer.write(answer.encode() + b"\n")
                await writer.drain()
    except (ConnectionError, ValueError, asyncio.CancelledError):
        pass
    finally:
        writer.close()


async def serve(rig: Rig, host: str, control: int, data: int, frame: int) -> None:
    """Serve the three ports and let time pass until cancelled."""
    amp = amplifier_commands(rig.amplifier, rig.resend)
    load_frame = frame_commands(rig.amplifier.world.crosshead)
    servers = [
        await asyncio.start_server(
            lambda r, w: serve_commands(amp, r, w), host, control, limit=LONGEST_LINE
        ),
        await asyncio.start_server(rig.on_listener, host, data),
        await asyncio.start_server(
            lambda r, w: serve_commands(load_frame, r, w), host, frame, limit=LONGEST_LINE
        ),
    ]
    try:
        await rig.run()
    finally:
        for server in servers:
            server.close()
