"""Devices of other makes that stand at a bench: an indicator and a gauge, each on its port."""

import asyncio
from collections.abc import Awaitable, Callable

from yoke_rig.announce import LINES, MODBUS, Announced
from yoke_rig.indicator import MODEL, Indicator
from yoke_rig.line_gauge import LineGauge
from yoke_rig.modbus import serve_registers
from yoke_rig.state import State

Serve = Callable[[asyncio.StreamReader, asyncio.StreamWriter], Awaitable[None]]
MAX_BACKLOG = 1024  # bytes a reader of lines may be behind: older ones are of no use


class Guests:
    """``ports`` says where they answer; nothing can be told to them but the indicator's rate."""

    def __init__(self, seed: int, acquisition: int) -> None:
        self.indicator = Indicator(acquisition=acquisition, seed=seed + 4)
        self.gauge = LineGauge(seed=seed + 5)
        self.ports: dict[str, int] = {}
        self._servers: list[asyncio.Server] = []
        self._links: set[asyncio.StreamWriter] = set()
        self._listeners: set[asyncio.StreamWriter] = set()  # to the gauge's lines

    async def open(self, host: str) -> None:
        await self._open("W1", self._serve_indicator, host)
        await self._open("S1", self._serve_gauge, host)

    async def _open(self, label: str, serve: Serve, host: str) -> None:
        async def linked(reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
            self._links.add(writer)
            try:
                await serve(reader, writer)
            except (ConnectionError, ValueError, asyncio.CancelledError):
                pass
            finally:
                self._links.discard(writer)
                writer.close()

        server = await asyncio.start_server(linked, host, 0)
        self._servers.append(server)
        self.ports[label] = int(server.sockets[0].getsockname()[1])

    def announced(self) -> list[Announced]:
        indicator, gauge = self.indicator, self.gauge
        return [
            Announced(MODBUS, MODEL, str(indicator.serial), "2.4", self.ports["W1"]),
            Announced(LINES, gauge.model, gauge.serial, "1.2", self.ports["S1"]),
        ]

    async def _serve_indicator(
        self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter
    ) -> None:
        await serve_registers(self.indicator, reader, writer)

    async def _serve_gauge(
        self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter
    ) -> None:
        """As a serial line behind TCP: lines go out by themselves, a question may come in."""
        self._listeners.add(writer)
        try:
            while asked := await reader.readline():
                if said := self.gauge.answer(asked.decode("ascii", "replace")):
                    writer.write(f"{said}\r\n".encode("ascii"))
        finally:
            self._listeners.discard(writer)

    def tick(self, state: State) -> None:
        self.indicator.sense(state)
        text = "".join(f"{line}\r\n" for line in self.gauge.lines(state)).encode("ascii")
        for writer in self._listeners if text else ():
            if writer.transport.get_write_buffer_size() < MAX_BACKLOG:
                writer.write(text)

    def reset(self) -> None:
        """The bench's time begins anew, and so do they."""
        self.indicator.restart(clock=0.0)
        self.gauge.sent = 0

    def close(self) -> None:
        for server in self._servers:
            server.close()
        for writer in self._links:
            writer.transport.abort()
