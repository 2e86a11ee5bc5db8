"""Driver of the load frame (docs/amplifier-protocol.md, "Load frame"); SI units here."""

from typing import ClassVar

from yoke_server.bench.drivers.base import (
    TEXT_COMMANDS,
    Announcement,
    Capability,
    DriverError,
    FrameState,
    Identity,
)
from yoke_server.bench.drivers.scpi import ScpiLink

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

    def ramp(self, speed_m_s: float, target_m: float) -> None:
        self._link.command(f"MOTion:RAMP {speed_m_s * 1e3:.6g},{target_m * 1e3:.6g}")

    def force_ramp(self, rate_n_s: float, peak_n: float) -> None:
        """To a force and back to none; refused by a frame that controls its travel only."""
        self._link.command(f"MOTion:FORCe {rate_n_s:.6g},{peak_n:.6g}")

    def force_sine(self, lowest_n: float, highest_n: float, frequency_hz: float) -> None:
        """Between two forces until it is stopped; refused likewise."""
        self._link.command(f"MOTion:SINE {lowest_n:.6g},{highest_n:.6g},{frequency_hz:.6g}")

    def stop(self) -> None:
        """Stand still; returns when the frame has confirmed it."""
        self._link.command("MOTion:STOP")

    def go_home(self) -> None:
        self._link.command("MOTion:RETurn")

    def state(self) -> FrameState:
        answer = self._link.ask("MOTion:STATe?;CAUSe?")
        state, _, cause = answer.partition(";")
        motion, _, position = state.partition(",")
        try:
            return FrameState(motion, float(position) * 1e-3, cause)
        except ValueError:
            raise DriverError(f"the load frame's state makes no sense: “{answer[:40]}”.") from None


class ServoActuator(LoadFrame):
    """Speaks as the load frame does, and controls its force too."""

    announced: ClassVar = Announcement(TEXT_COMMANDS, "SA")
    capabilities: ClassVar = frozenset({Capability.MOVES, Capability.CONTROLS_FORCE})
