"""Driver of the load frame (docs/amplifier-protocol.md, "Load frame"); SI units here."""

import math
from collections.abc import Sequence
from typing import ClassVar

from yoke_server.bench.drivers.base import (
    TEXT_COMMANDS,
    Announcement,
    Capability,
    FrameState,
    Identity,
    LinkBroken,
)
from yoke_server.bench.drivers.scpi import ScpiLink

TABLE_PART = 60  # forces of a table in a command, which takes 1024 characters
HEARTBEAT = 1.0  # s; without a word for so long the frame holds by itself


class LoadFrame:
    announced: ClassVar = Announcement(TEXT_COMMANDS, "LF")
    capabilities: ClassVar = frozenset({Capability.MOVES})

    def __init__(self, host: str, port: int) -> None:
        self._link = ScpiLink(host, port, timeout=1.0)

    def connect(self) -> Identity:
        self._link.connect()
        return self._link.identify(self.announced.model)

    def close(self) -> None:
        self._link.close()

    def take_control(self, host: str) -> None:
        """Become the one host that the frame obeys, and that it holds without."""
        self._link.take_control(host)
        self._link.command(f"MOTion:HEARtbeat {HEARTBEAT:g}")

    def ramp(self, motion_id: str, speed_m_s: float, target_m: float) -> None:
        speed, target = f"{speed_m_s * 1e3:.6g}", f"{target_m * 1e3:.6g}"
        self._link.command(f'MOTion:RAMP {speed},{target},"{motion_id}"')

    def force_ramp(self, motion_id: str, rate_n_s: float, peak_n: float) -> None:
        """To a force and back to none; refused by a frame that controls its travel only."""
        self._link.command(f'MOTion:FORCe {rate_n_s:.6g},{peak_n:.6g},"{motion_id}"')

    def force_sine(
        self, motion_id: str, lowest_n: float, highest_n: float, frequency_hz: float
    ) -> None:
        """Between two forces until it is stopped; refused likewise."""
        forces = f"{lowest_n:.6g},{highest_n:.6g}"
        self._link.command(f'MOTion:SINE {forces},{frequency_hz:.6g},"{motion_id}"')

    def force_to(self, motion_id: str, rate_n_s: float, force_n: float) -> None:
        """To a force, where it stays; refused likewise."""
        self._link.command(f'MOTion:LOAD {rate_n_s:.6g},{force_n:.6g},"{motion_id}"')

    def force_wave(
        self,
        motion_id: str,
        shape: str,
        lowest_n: float,
        highest_n: float,
        frequency_hz: float,
        cycles: int,
    ) -> None:
        """So many cycles between two forces, then it stays at their middle; refused likewise."""
        numbers = f"{lowest_n:.6g},{highest_n:.6g},{frequency_hz:.6g},{cycles}"
        self._link.command(f'MOTion:WAVE {shape.upper()},{numbers},"{motion_id}"')

    def trim(self, lowest_n: float, highest_n: float) -> None:
        """Other ends of the wave that is under way; refused where none is."""
        self._link.command(f"MOTion:TRIM {lowest_n:.6g},{highest_n:.6g}")

    def play(
        self,
        motion_id: str,
        forces_n: Sequence[float],
        rate_hz: float,
        rounds: int,
        begin_s: float,
    ) -> None:
        """A table of forces, so many per second and rounds, from a time on; it stays at the end.

        What it holds of an earlier table is replaced. Refused likewise.
        """
        self._link.command("MOTion:TABLe:CLEar")
        for first in range(0, len(forces_n), TABLE_PART):
            part = ",".join(f"{force:.6g}" for force in forces_n[first : first + TABLE_PART])
            self._link.command(f"MOTion:TABLe {part}")
        self._link.command(f'MOTion:PLAY {rate_hz:.9g},{rounds},{begin_s:.6g},"{motion_id}"')

    def switch(self, motion_id: str, output: int, on: bool) -> None:
        """Set one of its outputs; nothing moves."""
        self._link.command(f'MOTion:OUTPut {output},{int(on)},"{motion_id}"')

    def stop(self) -> None:
        """Stand still; returns when the frame has confirmed it."""
        self._link.command("MOTion:STOP")

    def go_home(self, motion_id: str) -> None:
        self._link.command(f'MOTion:RETurn "{motion_id}"')

    def state(self) -> FrameState:
        """Its state; raises LinkBroken for an answer that cannot be read."""
        answer = self._link.ask("MOTion:STATe?;CAUSe?;ID?")
        parts = answer.split(";")
        motion, _, position = parts[0].partition(",")
        try:
            if len(parts) != len(("state", "cause", "id")) or not math.isfinite(float(position)):
                raise ValueError
        except ValueError:
            raise LinkBroken(f"the load frame's state makes no sense: “{answer[:40]}”.") from None
        return FrameState(motion, float(position) * 1e-3, parts[1], parts[2])


class ServoActuator(LoadFrame):
    """Speaks as the load frame does, and controls its force too."""

    announced: ClassVar = Announcement(TEXT_COMMANDS, "SA")
    capabilities: ClassVar = frozenset({Capability.MOVES, Capability.CONTROLS_FORCE})
