"""Driver of the load frame (docs/amplifier-protocol.md, "Load frame"); SI units here."""

from dataclasses import dataclass

from yoke_server.bench.drivers.base import DriverError, Identity
from yoke_server.bench.drivers.scpi import ScpiLink


@dataclass(frozen=True, slots=True)
class FrameState:
    motion: str  # HOLD, RAMP, RETURN or TRIPPED
    position_m: float


class LoadFrame:
    def __init__(self, host: str, port: int) -> None:
        self._link = ScpiLink(host, port)

    def connect(self) -> Identity:
        self._link.connect()
        return self._link.identify()

    def close(self) -> None:
        self._link.close()

    def ramp(self, speed_m_s: float, target_m: float) -> None:
        self._link.tell(f"MOTion:RAMP {speed_m_s * 1e3:.6g},{target_m * 1e3:.6g}")
        self._link.check()

    def stop(self) -> None:
        """Stand still; returns when the frame has confirmed it."""
        self._link.tell("MOTion:STOP")
        self._link.check()

    def go_home(self) -> None:
        self._link.tell("MOTion:RETurn")
        self._link.check()

    def state(self) -> FrameState:
        answer = self._link.ask("MOTion:STATe?")
        motion, _, position = answer.partition(",")
        try:
            return FrameState(motion, float(position) * 1e-3)
        except ValueError:
            raise DriverError(f"the load frame's state makes no sense: “{answer[:40]}”.") from None
