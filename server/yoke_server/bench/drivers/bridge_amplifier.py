"""Driver of the eight-input bridge amplifier (docs/amplifier-protocol.md)."""

import socket
from collections.abc import Callable, Iterator
from typing import ClassVar

from yoke_core.clock import ClockReading

from yoke_server.bench.drivers.base import (
    AcquisitionStatus,
    Capability,
    DriverError,
    Identity,
    InputSettings,
    Offers,
    SampleBlock,
)
from yoke_server.bench.drivers.blocks import BlockReader
from yoke_server.bench.drivers.scpi import ScpiLink

SILENCE = 3.0  # s without a block before the link counts as lost
RECEIVE_BUFFER = 1 << 20


class BridgeAmplifier:
    """Text commands on ``port``; the device says on which port its samples come."""

    capabilities: ClassVar = frozenset(
        {Capability.ACQUIRES, Capability.CONDITIONS, Capability.SHUNTS, Capability.SENDS_AGAIN}
    )
    offers: ClassVar = Offers((1.0, 2.5, 5.0), (2.0, 8.0, 40.0))

    def __init__(self, host: str, port: int) -> None:
        self._control = ScpiLink(host, port)
        self._host = host
        self._data: socket.socket | None = None

    def connect(self) -> Identity:
        self._control.connect()
        identity = self._control.identify()
        port = int(self._control.ask_number("DATA:PORT?"))
        try:
            self._data = socket.create_connection((self._host, port), 2.0)
        except OSError as error:
            raise DriverError("the amplifier's data port does not answer.") from error
        self._data.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, RECEIVE_BUFFER)
        self._data.settimeout(SILENCE)
        return identity

    def close(self) -> None:
        self._control.close()
        if self._data:
            self._data.close()

    def take_control(self, host: str) -> None:
        """Become the one host that the amplifier obeys; raises `ControlRefused`."""
        self._control.take_control(host)

    def controller(self) -> str:
        return self._control.ask("SYSTem:CONTrol?")

    def temperature_c(self) -> float:
        return self._control.ask_number("SYSTem:TEMPerature?")

    def read_clock(self, now_ns: Callable[[], int]) -> ClockReading:
        """Ask for the device's time; it lies between asking and the answer."""
        asked = now_ns()
        device_ns = self._control.ask_whole("SYSTem:TIME?")
        answered = now_ns()
        return ClockReading(device_ns, (asked + answered) // 2, (answered - asked) // 2)

    def configure(self, inputs: list[InputSettings], rate_hz: float) -> AcquisitionStatus:
        """Bring settings in force, shunts off, and read them back.

        Gives the acquisition's status after that: blocks from its ``next`` on were taken with
        these settings. Raises DriverError naming what the device does not do.
        """
        lines = [f"SAMPle:RATE {rate_hz:g}", "ACQuire:STARt"]
        for i in inputs:
            lines += [
                f"INPut{i.number}:BRIDge {i.bridge.upper()}",
                f"INPut{i.number}:COMPletion {i.completion_ohm:g}",
                f"INPut{i.number}:EXCitation {i.excitation_v:g}",
                f"INPut{i.number}:RANGe {i.range_mv_v:g}",
                f"INPut{i.number}:SHUNt OFF",
            ]
        self._control.command(*lines)
        for i in inputs:
            self._confirm(i)
        status = self.status()
        if abs(status.rate_hz / rate_hz - 1) > 1e-9:
            raise DriverError(f"the device samples at {status.rate_hz:g} Hz, not {rate_hz:g} Hz.")
        return status

    def _confirm(self, wanted: InputSettings) -> None:
        n = wanted.number
        found = self._control.ask(f"INPut{n}:BRIDge?;COMPletion?;EXCitation?;RANGe?;SHUNt?").split(
            ";"
        )
        asked = [
            wanted.bridge.upper(), f"{wanted.completion_ohm:g}", f"{wanted.excitation_v:g}",
            f"{wanted.range_mv_v:g}", "0",
        ]  # fmt: skip
        names = ("bridge", "completion", "excitation", "range", "shunt")
        for name, want, got in zip(names, asked, found, strict=True):
            if want != got:
                raise DriverError(f"input {n} has {name} {got} after being told {want}.")

    def status(self) -> AcquisitionStatus:
        answer = self._control.ask("ACQuire:STATus?")
        try:
            acquisition, _, oldest, following, rate = answer.split(",")
            return AcquisitionStatus(int(acquisition), int(oldest), int(following), float(rate))
        except ValueError:
            raise DriverError(f"the amplifier's status makes no sense: “{answer[:60]}”.") from None

    def set_shunt(self, inputs: list[int], on: bool) -> None:
        self._control.command(*(f"INPut{n}:SHUNt {'ON' if on else 'OFF'}" for n in inputs))

    def shunt_ohm(self, number: int) -> float:
        return self._control.ask_number(f"INPut{number}:SHUNt:RESistance?")

    def send_again(self, first: int, last: int) -> None:
        self._control.command(f"DATA:AGAin {first},{last}")

    def blocks(self) -> Iterator[SampleBlock]:
        """Blocks as they arrive; raises DriverError when the connection is lost or confused."""
        assert self._data is not None
        reader = BlockReader()
        while True:
            try:
                data = self._data.recv(1 << 18)
            except OSError as error:
                raise DriverError("no samples arrive from the amplifier.") from error
            if not data:
                raise DriverError("the amplifier closed the data connection.")
            reader.feed(data)
            while block := reader.next_block():
                yield block
