"""Driver of the eight-input bridge amplifier (docs/amplifier-protocol.md)."""

import socket
from collections.abc import Iterator

from yoke_server.bench.drivers.base import (
    AcquisitionStatus,
    DriverError,
    Identity,
    InputSettings,
    SampleBlock,
)
from yoke_server.bench.drivers.blocks import BlockReader
from yoke_server.bench.drivers.scpi import ScpiLink

SILENCE = 3.0  # s without a block before the link counts as lost


class BridgeAmplifier:
    """Control on ``port``, samples on the port after it."""

    full_counts = 2**23 - 1

    def __init__(self, host: str, port: int) -> None:
        self._control = ScpiLink(host, port)
        self._host, self._port = host, port
        self._data: socket.socket | None = None

    def connect(self) -> Identity:
        self._control.connect()
        identity = self._control.identify()
        try:
            self._data = socket.create_connection((self._host, self._port + 1), 2.0)
        except OSError as error:
            raise DriverError("the amplifier's data port does not answer.") from error
        self._data.settimeout(SILENCE)
        return identity

    def close(self) -> None:
        self._control.close()
        if self._data:
            self._data.close()

    def temperature_c(self) -> float:
        return self._control.ask_number("SYSTem:TEMPerature?")

    def configure(self, inputs: list[InputSettings], rate_hz: float) -> None:
        """Bring conditioning and rate in force; the same rate again changes nothing."""
        for i in inputs:
            self._control.tell(
                f"INPut{i.number}:BRIDge {i.bridge.upper()}",
                f"INPut{i.number}:COMPletion {i.completion_ohm:g}",
                f"INPut{i.number}:EXCitation {i.excitation_v:g}",
                f"INPut{i.number}:RANGe {i.range_mv_v:g}",
            )
        self._control.tell(f"SAMPle:RATE {rate_hz:g}", "ACQuire:STARt")
        self._control.check()

    def status(self) -> AcquisitionStatus:
        answer = self._control.ask("ACQuire:STATus?")
        try:
            acquisition, _, oldest, following, rate = answer.split(",")
            return AcquisitionStatus(int(acquisition), int(oldest), int(following), float(rate))
        except ValueError:
            raise DriverError(f"the amplifier's status makes no sense: “{answer[:60]}”.") from None

    def set_shunt(self, inputs: list[int], on: bool) -> None:
        self._control.tell(*(f"INPut{n}:SHUNt {'ON' if on else 'OFF'}" for n in inputs))
        self._control.check()

    def shunt_ohm(self, number: int) -> float:
        return self._control.ask_number(f"INPut{number}:SHUNt:RESistance?")

    def send_again(self, first: int, last: int) -> None:
        self._control.tell(f"DATA:AGAin {first},{last}")

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
