"""Driver of a gauge that sends lines of text over a serial line (docs/device-protocols.md).

The line is behind TCP, or one of this computer's own. The gauge has no clock that could be
asked: its count of readings is one, since its quartz makes them.
"""

import contextlib
import math
import re
import threading
import time
from collections.abc import Callable, Iterator
from typing import ClassVar

import numpy as np
import serial
from yoke_core.timebase.clock import ClockReading

from yoke_server.bench.address import is_line, spoken
from yoke_server.bench.drivers.base import (
    AcquisitionStatus,
    Announcement,
    Capability,
    DriverError,
    Identity,
    InputSettings,
    Offers,
    SampleBlock,
)
from yoke_server.bench.drivers.plain import ObeysAnybody

BAUD = 9600  # 8 data bits, no parity, 1 stop bit
SILENCE = 3.0  # s without a line before the link counts as lost
LISTEN = 1.0  # s, to learn how often it sends
LISTEN_ON = 3.0  # s, where it seems to send at no usual rate
MAX_WAITING = 2000  # lines: more than any buffer holds
UNUSUAL = 0.1  # by which share it is off then
MAX_LINE_LENGTH = 80
READING = re.compile(r"^\s*([+-]?\d{1,9}(?:\.(\d{1,6}))?)\s*([A-Za-zµ°%/]{0,6})\s*$")
OVER = re.compile(r"^\s*(OVER|UNDER)\s*$", re.IGNORECASE)
RATES = (1.0, 2.0, 5.0, 10.0, 20.0, 25.0, 50.0)  # Hz
DIGITS = 9  # that are kept of a reading; the last of them is one count
RAIL = 10**DIGITS
FASTEST_SENT, SLOWEST_SENT = 75.0, 0.7  # lines a second, beyond which no usual rate is meant
DOUBT_NS = 5_000_000  # when a line was made, seen from its arrival
MAX_LATE = 2.0  # readings that arrivals may jitter before some count as lost
FOLLOWING = 1e-3  # of each reading's lateness: quartzes drift slower than that, losses do not
BROKEN = (serial.SerialException, OSError, TypeError, AttributeError)  # pySerial, closed meanwhile


class LineGauge(ObeysAnybody):
    """``port`` counts only where ``host`` is no serial line of this computer."""

    capabilities: ClassVar = frozenset({Capability.ACQUIRES, Capability.SERIAL_LINE})
    announced: ClassVar = Announcement("_text-gauge._tcp.local.", "DG")
    offers: ClassVar = Offers(
        ("value",), slowest_hz=1.0, fastest_hz=50.0, usual_hz=10.0, rates_hz=RATES
    )

    def __init__(self, host: str, port: int) -> None:
        self._where = spoken(host, port)
        self._url = self._where if is_line(host) else f"socket://{self._where}"
        self._line: serial.SerialBase | None = None
        self._rest = b""
        self._rate = 0.0
        self._acquisition = 0
        self._decimals = 0
        self._counted = threading.Lock()
        self._count = 0  # readings made since the first one, lost ones too
        self._arrived_ns = 0  # when the last one came, by this computer
        self._began_ns = 0
        self._late = 0.0  # readings that they come later than the usual rate says, by drift

    def connect(self) -> Identity:
        try:
            self._line = serial.serial_for_url(self._url, baudrate=BAUD, timeout=0.2)
        except (serial.SerialException, OSError, ValueError) as error:
            raise DriverError(
                f"nothing answers at {self._where}. Check its cable and power, and the address."
            ) from error
        identity = self._identify()
        self._learn_rate()
        return identity

    def _identify(self) -> Identity:
        """A gauge that only talks is a gauge as well."""
        with contextlib.suppress(serial.SerialException, OSError):
            self._open().write(b"ID\r\n")
        until = time.monotonic() + LISTEN
        while time.monotonic() < until:
            line = self._next_line()
            if line.startswith("ID "):
                model, serial_number, firmware = [*line[3:].split(","), "", ""][:3]
                return Identity(model[:60], serial_number[:40], firmware[:40], "not told")
        return Identity("a gauge that does not say its name", "", "", "not told")

    def _learn_rate(self) -> None:
        """How often it sends: the usual rate nearest to what comes within a second or more."""
        self._acquisition = int(time.time() * 10) % 2**31
        text = self._next_line()
        if self._counts(text) is None:
            raise DriverError(
                f"what sends at {self._where} sends no readings: “{text[:20]}”. "
                "Check the address, and that the gauge sends by itself."
            )
        self._catch_up()
        self._began_ns = self._arrived_ns
        found = self._listen()
        if not SLOWEST_SENT <= found <= FASTEST_SENT:
            raise DriverError(
                f"the gauge at {self._where} sends {found:.3g} readings a second. "
                "Set it to send 1 to 50."
            )
        self._rate = _usual(found)

    def _catch_up(self) -> int:
        """Read what waits, if anything does; the number of lines.

        Only a line behind which nothing waits came when it was sent.
        """
        lines = 0
        while self._waits():
            self._next_line()
            lines += 1
            if lines > MAX_WAITING:
                raise DriverError(f"what sends at {self._where} sends faster than can be read.")
        self._arrived_ns = time.monotonic_ns()
        return lines

    def _listen(self) -> float:
        """Readings a second; listens on for a while where they come at no usual rate."""
        while True:
            self._next_line()
            self._count += 1 + self._catch_up()
            seconds = (self._arrived_ns - self._began_ns) * 1e-9
            found = self._count / max(seconds, 1e-3)
            unusual = abs(found / _usual(found) - 1) > UNUSUAL
            if self._count >= 3 and seconds >= (LISTEN_ON if unusual else LISTEN):
                return found

    def close(self) -> None:
        if self._line:
            self._line.close()

    def read_clock(self, now_ns: Callable[[], int]) -> ClockReading:
        """Its count of readings as a time, and when the last of them came."""
        with self._counted:
            count, arrived = self._count, self._arrived_ns
        host_ns = now_ns() - (time.monotonic_ns() - arrived)
        return ClockReading(self._time_ns(count), host_ns, DOUBT_NS)

    def _time_ns(self, count: int) -> int:
        return round(count * 1e9 / self._rate)

    def configure(self, inputs: list[InputSettings], rate_hz: float) -> AcquisitionStatus:
        """Nothing can be set: the setup must take the gauge's own rate."""
        if rate_hz != self._rate:
            raise DriverError(
                f"the gauge sends {self._rate:g} readings a second by itself. "
                f"Set its rate to {self._rate:g} Hz."
            )
        return self.status()

    def status(self) -> AcquisitionStatus:
        following = self._count + 1
        return AcquisitionStatus(self._acquisition, following, following, self._rate)

    def send_again(self, first: int, last: int) -> None:
        """Do nothing: readings that were not received are lost and shown as missing."""

    def blocks(self) -> Iterator[SampleBlock]:
        """A reading a block. One that is garbled, or did not come, shows as missing."""
        while True:
            counts = self._counts(self._next_line())
            sequence = self._count_on(time.monotonic_ns())
            if counts is not None:
                yield SampleBlock(
                    self._acquisition,
                    sequence,
                    self._time_ns(sequence),
                    self._rate,
                    np.array([float(10 ** (DIGITS - self._decimals))], np.float32),
                    np.array([[counts]], np.int32),
                    False,
                    RAIL,
                )

    def _count_on(self, now_ns: int) -> int:
        """The number of the reading that came now; lines that did not come are counted too.

        While others wait to be read it is this computer that is late, and nothing is lost.
        """
        count, waits = self._count + 1, self._waits()
        late = (now_ns - self._began_ns) * self._rate * 1e-9 - count - self._late
        if not waits:
            count += round(late) if late > MAX_LATE else 0
            self._late += FOLLOWING * late if late <= MAX_LATE else 0.0
        with self._counted:
            self._count, self._arrived_ns = count, now_ns
        return count

    def _waits(self) -> bool:
        """Whether more was sent than was read."""
        try:
            return b"\n" in self._rest or bool(getattr(self._open(), "in_waiting", 0))
        except BROKEN as error:
            raise DriverError(f"the serial line at {self._where} broke.") from error

    def _counts(self, line: str) -> int | None:
        """Nine digits as a whole number; at the rail where it is over; None for no reading."""
        if over := OVER.match(line):
            return RAIL if over[1].upper() == "OVER" else -RAIL
        if not (found := READING.match(line)):
            return None
        before_point = len(found[1].lstrip("+-").partition(".")[0].lstrip("0"))
        self._decimals = max(0, min(len(found[2] or ""), DIGITS - before_point))
        return max(-RAIL, min(RAIL, round(float(found[1]) * 10**self._decimals)))

    def _next_line(self) -> str:
        """The next line; raises DriverError when none comes, or what comes has no lines."""
        until = time.monotonic() + SILENCE
        while b"\n" not in self._rest:
            if time.monotonic() > until:
                raise DriverError(f"nothing is sent at {self._where}.")
            if len(self._rest) > MAX_LINE_LENGTH:
                raise DriverError(f"what sends at {self._where} does not send lines of text.")
            try:
                line = self._open()
                self._rest += line.read_until(size=MAX_LINE_LENGTH)
            except BROKEN as error:
                raise DriverError(f"the serial line at {self._where} broke.") from error
        found, _, self._rest = self._rest.partition(b"\n")
        return found.decode("ascii", "replace").strip()

    def _open(self) -> serial.SerialBase:
        if self._line is None:
            raise DriverError("the serial line is not open.")
        return self._line


def _usual(rate: float) -> float:
    """The nearest of the rates at which gauges send, by ratio."""
    return min(RATES, key=lambda usual: abs(math.log(usual / rate)))
