"""What devices with text commands and a stream of blocks share (docs/amplifier-protocol.md)."""

import contextlib
import select
import socket
import struct
from collections.abc import Callable, Iterator
from typing import ClassVar

from yoke_core.timebase.clock import ClockReading

from yoke_server.bench.drivers.base import (
    AcquisitionStatus,
    Announcement,
    DriverError,
    Housekeeping,
    Identity,
    SampleBlock,
)
from yoke_server.bench.drivers.blocks import blocks_of
from yoke_server.bench.drivers.scpi import ScpiLink, connect_to

SILENCE = 3  # s without a block before the link counts as lost
RECEIVE_BUFFER = 1 << 20


class StreamingDevice:
    """Text commands on ``port``; the device says on which port its samples come."""

    announced: ClassVar[Announcement]

    def __init__(self, host: str, port: int) -> None:
        self._control = ScpiLink(host, port)
        self._host = host
        self._data: socket.socket | None = None

    def connect(self) -> Identity:
        self._control.connect()
        identity = self._control.identify(self.announced.model)
        port = int(self._control.ask_number("DATA:PORT?"))
        self._data = connect_to(self._host, port, 2.0)
        self._data.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, RECEIVE_BUFFER)
        # The system's own patience: Python's asks before each read whether there is anything.
        self._data.settimeout(None)
        self._data.setsockopt(socket.SOL_SOCKET, socket.SO_RCVTIMEO, struct.pack("ll", SILENCE, 0))
        return identity

    def close(self) -> None:
        """From any thread: who waits for samples is woken."""
        self._control.close()
        if self._data:
            with contextlib.suppress(OSError):
                self._data.shutdown(socket.SHUT_RDWR)
            self._data.close()

    def take_control(self, host: str) -> None:
        """Become the one host that the device obeys; raises `ControlRefused`."""
        self._control.take_control(host)

    def controller(self) -> str:
        return self._control.ask("SYSTem:CONTrol?")

    def housekeeping(self) -> Housekeeping:
        warm = self._control.ask_number("SYSTem:TEMPerature?")
        mains = self._control.ask("SYSTem:POWer?") == "MAINS"
        battery = None if mains else self._control.ask_number("SYSTem:BATTery?") / 100
        return Housekeeping(warm, battery)

    def read_clock(self, now_ns: Callable[[], int]) -> ClockReading:
        """Ask for the device's time; it lies between asking and the answer."""
        asked = now_ns()
        device_ns = self._control.ask_whole("SYSTem:TIME?")
        answered = now_ns()
        return ClockReading(device_ns, (asked + answered) // 2, (answered - asked) // 2)

    def sample_at(self, rate_hz: float, *lines: str) -> AcquisitionStatus:
        """Bring a rate in force, with further commands, and read it back; samples flow then."""
        self._control.command(f"SAMPle:RATE {rate_hz:g}", "ACQuire:STARt", *lines)
        status = self.status()
        if abs(status.rate_hz / rate_hz - 1) > 1e-9:
            raise DriverError(f"the device samples at {status.rate_hz:g} Hz, not {rate_hz:g} Hz.")
        return status

    def status(self) -> AcquisitionStatus:
        answer = self._control.ask("ACQuire:STATus?")
        try:
            acquisition, _, oldest, following, rate = answer.split(",")
            return AcquisitionStatus(int(acquisition), int(oldest), int(following), float(rate))
        except ValueError:
            raise DriverError(f"the device's status makes no sense: “{answer[:60]}”.") from None

    def send_again(self, first: int, last: int) -> None:
        self._control.command(f"DATA:AGAin {first},{last}")

    def blocks(self) -> Iterator[SampleBlock]:
        """Blocks as they arrive; raises DriverError when the connection is lost or confused."""
        assert self._data is not None
        return blocks_of(self._data)

    def more(self) -> bool:
        assert self._data is not None
        waiting = select.poll()
        waiting.register(self._data, select.POLLIN)
        return bool(waiting.poll(0))
