"""TCP servers of the rig: control and data of each amplifier, the load frame; time passes here."""

import asyncio
import sys
import time
from collections.abc import Awaitable, Callable
from dataclasses import dataclass, field

from yoke_rig.amplifier import BLOCK_SECONDS, Amplifier
from yoke_rig.announce import TEXT_COMMANDS, Announced
from yoke_rig.device_commands import AtTheBench, Hooks, amplifier_commands, frame_commands
from yoke_rig.guests import Guests
from yoke_rig.module import FORK_SOURCES, Module, pulse_module
from yoke_rig.plugs import FORK_PLUGS, SECOND_PLUGS
from yoke_rig.scpi import Commands, Session
from yoke_rig.stack import Cell, Stack, fork_cells
from yoke_rig.state import STEP
from yoke_rig.world import CouponWorld, ForkWorld, World

MAX_LINE_LENGTH = 1024
MAX_BACKLOG = 64 * 1024 * 1024  # bytes a slow reader may be behind before it is cut off
MAX_LAG = 60.0  # s that the rig makes up for when it was held up; what is older is lost
TO_BE_HEARD = 1e-3  # s in which what hosts said meanwhile is read, before it is made up for


@dataclass(slots=True)
class Outlet:
    """One amplifier's data port: whoever listens gets every block."""

    amplifier: Amplifier
    listeners: set[asyncio.StreamWriter] = field(default_factory=set)

    def send(self, data: bytes) -> None:
        for writer in list(self.listeners):
            if writer.transport.get_write_buffer_size() > MAX_BACKLOG:
                writer.transport.abort()
            else:
                writer.write(data)

    def resend(self, first: int, last: int) -> None:
        for block in self.amplifier.again(first, last):
            self.send(block.encode(again=True))

    def pull_plug(self) -> None:
        """Every connection ends, as when the device is switched off."""
        for writer in list(self.listeners):
            writer.transport.abort()

    async def serve(self, reader: asyncio.StreamReader, writer: asyncio.StreamWriter) -> None:
        self.listeners.add(writer)
        try:
            while await reader.read(1024):
                pass
        except (ConnectionError, asyncio.CancelledError):
            pass
        finally:
            self.listeners.discard(writer)
            writer.close()


def shed_amplifiers(seed: int, acquisition: int) -> dict[str, Amplifier]:
    """The amplifiers and the module of the shed bench: each with a clock that runs off."""
    return {
        "A1": Amplifier("20417", 12.0, seed=seed + 1, acquisition=acquisition),
        "A2": Amplifier(
            "20588", -30.0, SECOND_PLUGS, seed=seed + 2, rate=500.0, acquisition=acquisition
        ),
        "M1": Module("30114", 21.0, seed=seed + 3, rate=100.0, acquisition=acquisition),
        "P1": pulse_module("30212", -17.0, seed + 6, acquisition),
    }


def fork_amplifiers(seed: int, acquisition: int) -> dict[str, Amplifier]:
    """The amplifier and the module of the fork bench."""
    return {
        "A3": Amplifier("20731", -8.0, FORK_PLUGS, seed=seed + 1, acquisition=acquisition),
        "M2": Module(
            "30177",
            17.0,
            seed=seed + 2,
            rate=100.0,
            acquisition=acquisition,
            sources=FORK_SOURCES,
        ),
    }


@dataclass(frozen=True)
class Bench:
    """What a simulated bench consists of; the actuator's label, and what it says it is.

    ``guests``: devices of other makes stand there too. ``cells``: that do not tell the very truth.
    """

    world: Callable[[int], World]
    amplifiers: Callable[[int, int], dict[str, Amplifier]]
    actuator: str
    identity: str
    guests: bool = False
    cells: Callable[[], dict[str, Cell]] = dict


BENCHES = {
    "shed": Bench(CouponWorld, shed_amplifiers, "Load frame", "LF25 load frame,1187,1.5", True),
    "fork": Bench(
        ForkWorld, fork_amplifiers, "Servo", "SA10 servo actuator,2044,1.5", cells=fork_cells
    ),
}


class Rig:
    """The devices of one bench in one world; ``speed`` times faster than life.

    stepped : time passes only by `step`, also for how long a host may be silent
    """

    def __init__(
        self,
        seed: int = 7,
        speed: float = 1.0,
        acquisition: int = 1,
        bench: str = "shed",
        *,
        stepped: bool = False,
    ) -> None:
        self.bench = BENCHES[bench]
        self.world = self.bench.world(seed)
        self.stack = Stack(self.bench.cells())
        self.speed = speed
        self._stepped = stepped
        self._seconds = self.now if stepped else time.monotonic  # of hosts and their silence
        amplifiers = self.bench.amplifiers(seed, acquisition)
        self.outlets = {n: Outlet(a) for n, a in amplifiers.items()}
        self.ports: dict[str, int] = {}  # control port by label
        self.guests = Guests(seed, acquisition) if self.bench.guests else None
        self._commands: dict[str, Commands] = {}
        self._data_ports: dict[str, int] = {}
        self._true = 0.0  # seconds of the world
        self._at = time.monotonic()  # when the world was that old
        self._servers: list[asyncio.Server] = []
        self._links: set[asyncio.StreamWriter] = set()
        for outlet in self.outlets.values():
            outlet.amplifier.now = self.now
        identity = self.bench.identity
        self.frame = frame_commands(self.world.crosshead, identity, self._seconds)

    def now(self) -> float:
        """True seconds of the world, also between two blocks."""
        if self._stepped:
            return self._true
        return self._true + (time.monotonic() - self._at) * self.speed

    async def open(self, host: str, port: int = 0) -> None:
        """Listen; with port 0 the system chooses, `ports` says which."""
        for label, outlet in self.outlets.items():
            data = await asyncio.start_server(outlet.serve, host, 0)
            self._data_ports[label] = _port(data)
            commands = amplifier_commands(outlet.amplifier, self._hooks(label), self._seconds)
            await self._listen(label, commands, host, port, data)
            port = port + 1 if port else 0
        await self._listen(self.bench.actuator, self.frame, host, port)
        if self.guests:
            await self.guests.open(host)
            self.ports |= self.guests.ports

    def announced(self) -> list[Announced]:
        """What is to be found here on the network."""
        found = []
        for label, commands in self._commands.items():
            _, model, serial, firmware = commands.identity.split(",")
            port = self.ports[label]
            found.append(Announced(TEXT_COMMANDS, model, serial, firmware, port))
        return found + (self.guests.announced() if self.guests else [])

    async def _listen(
        self, label: str, commands: Commands, host: str, port: int, *more: asyncio.Server
    ) -> None:
        server = await asyncio.start_server(
            lambda r, w: self._serve_commands(commands, r, w), host, port, limit=MAX_LINE_LENGTH
        )
        self.ports[label] = _port(server)
        self._commands[label] = commands
        self._servers += [server, *more]

    def _hooks(self, label: str) -> Hooks:
        outlet = self.outlets[label]

        def restart() -> None:
            outlet.amplifier.restart()
            outlet.pull_plug()

        def put_on(number: int, load: float) -> None:
            self.stack.put(outlet.amplifier.plugs[number - 1].source, load)

        def turn(number: int, degrees: float) -> None:
            self.stack.turn(outlet.amplifier.plugs[number - 1].source, degrees)

        person = AtTheBench(put_on, turn)
        return Hooks(outlet.resend, restart, self.reset, lambda: self._data_ports[label], person)

    def reset(self, seed: int) -> None:
        """Everything as switched on, so that tests can share one rig."""
        self.world.reset(seed)
        self.stack.reset()
        if self.guests:
            self.guests.reset()
        for outlet in self.outlets.values():
            outlet.amplifier.restart()
            outlet.amplifier.faults.clear()
            outlet.amplifier.plug_as_at_first()
            outlet.pull_plug()

    async def _serve_commands(
        self, commands: Commands, reader: asyncio.StreamReader, writer: asyncio.StreamWriter
    ) -> None:
        """Answer lines until the peer leaves; a line too long ends the connection."""
        session = Session()
        self._links.add(writer)
        try:
            while line := await reader.readline():
                answer = commands.answer(session, line.decode("ascii", "replace"))
                if answer is not None:
                    writer.write(answer.encode("ascii", "replace") + b"\n")
                    await writer.drain()
        except (ConnectionError, ValueError, asyncio.CancelledError):
            pass
        finally:
            self._links.discard(writer)
            commands.leave(session)
            writer.close()

    async def run(self) -> None:
        """Make blocks in step with the wall clock times the speed, until cancelled.

        Who was held up makes up for it: a device samples on, whatever its computer does.
        """
        while True:
            due = self._at + BLOCK_SECONDS / self.speed
            late = time.monotonic() - due
            await asyncio.sleep(TO_BE_HEARD if late > 0 else -late)
            self._at = due
            if late * self.speed > MAX_LAG:
                self._lose(int(late * self.speed / BLOCK_SECONDS))
            self.step()

    def _lose(self, blocks: int) -> None:
        """Let time pass of which nobody gets samples; who moved the actuator was not heard."""
        self.world.crosshead.stop("held up")
        for outlet in self.outlets.values():
            outlet.amplifier.miss(blocks)
        self._true += blocks * BLOCK_SECONDS
        self._at += blocks * BLOCK_SECONDS / self.speed

    def step(self) -> None:
        """Let the time of one block pass."""
        self._true += BLOCK_SECONDS
        crosshead = self.world.crosshead
        if self.frame.controller is None:
            crosshead.stop("its host left")
        crosshead.hold_if_silent(self._seconds() - self.frame.heard_at)
        state = self.stack.on(self.world.advance(round(BLOCK_SECONDS / STEP)))
        if self.guests:
            self.guests.tick(state)
        for outlet in self.outlets.values():
            amplifier = outlet.amplifier
            block = amplifier.next_block(state)
            if block is None:
                continue
            if amplifier.drop_next > 0:
                amplifier.drop_next -= 1
            else:
                outlet.send(block.encode())

    def close(self) -> None:
        for server in self._servers:
            server.close()
        for outlet in self.outlets.values():
            outlet.pull_plug()
        for writer in self._links:
            writer.transport.abort()
        if self.guests:
            self.guests.close()


def _port(server: asyncio.Server) -> int:
    return int(server.sockets[0].getsockname()[1])


async def in_step_with_the_wall(rigs: list[Rig]) -> None:
    await asyncio.gather(*(rig.run() for rig in rigs))


async def in_steps(rigs: list[Rig]) -> None:
    """Let the time of a block pass for each line on standard input, and say when it has."""
    wait = asyncio.get_running_loop().run_in_executor
    while await wait(None, sys.stdin.readline):
        for rig in rigs:
            rig.step()
        print("passed", flush=True)


async def serve(
    rigs: list[Rig],
    host: str,
    port: int,
    opened: Callable[[dict[str, int]], None],
    run: Callable[[list[Rig]], Awaitable[None]] = in_step_with_the_wall,
) -> None:
    """Open the ports, say which they are, and let time pass until cancelled."""
    for rig in rigs:
        await rig.open(host, port)
        port += len(rig.ports) if port else 0
    opened({label: at for rig in rigs for label, at in rig.ports.items()})
    try:
        await run(rigs)
    finally:
        for rig in rigs:
            rig.close()
