"""Driver of the weighing indicator behind Modbus TCP (docs/device-protocols.md)."""

import logging
import struct
import threading
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import partial
from typing import ClassVar

import numpy as np
from pymodbus.client import ModbusTcpClient
from pymodbus.exceptions import ModbusException
from pymodbus.pdu import ModbusPDU
from yoke_core.timebase.clock import ClockReading

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

logging.getLogger("pymodbus.logging").setLevel(logging.CRITICAL)  # a DriverError says it all

TIMEOUT = 2.0  # s
LOOK_EVERY = 0.1  # s
FAULTS_IN_A_ROW = 10  # looks that find nothing new for LOOK_EVERY * this
KEPT = 32  # measurements that the indicator keeps
HEAD = struct.Struct(">IHHHHHHIIQQ")
HEAD_REGISTERS = HEAD.size // 2
MODEL_AT, MODEL_REGISTERS = HEAD_REGISTERS + 2 * KEPT, 16
RATE_AT = 6
NEWTON = 1
SAMPLES = 2  # a block
RAIL = 10**9  # full scale is a power of ten then, and each digit shown is kept
OVER, UNDER = 2**31 - 1, -(2**31)


@dataclass(frozen=True, slots=True)
class Reading:
    """The indicator's registers at one moment; ``values`` with the newest first."""

    serial: int
    firmware: int
    fault: int
    decimals: int
    unit: int
    rate: int
    kept: int
    acquisition: int
    measured: int
    newest_us: int
    clock_us: int
    values: tuple[int, ...]

    def block(self, sequence: int, again: bool = False) -> SampleBlock | None:
        """``SAMPLES`` measurements as the block of that number; none where they are not kept."""
        first = sequence * SAMPLES
        back = self.measured - 1 - first  # of the first one, counted from the newest
        if not SAMPLES - 1 <= back < self.kept:
            return None
        shown = np.array([self.values[back - i] for i in range(SAMPLES)], np.int64)
        counts = np.clip(shown, -RAIL, RAIL).astype(np.int32)[:, None]
        time_ns = self.newest_us * 1000 - round(back * 1e9 / self.rate)
        full_scale = np.array([float(10 ** (9 - self.decimals))], np.float32)
        return SampleBlock(
            self.acquisition,
            sequence,
            max(0, time_ns),
            float(self.rate),
            full_scale,
            counts,
            again,
            RAIL,
        )

    @property
    def next(self) -> int:
        """The first block that is not complete yet."""
        return self.measured // SAMPLES

    @property
    def oldest(self) -> int:
        return -(-(self.measured - self.kept) // SAMPLES)


class WeighingIndicator(ObeysAnybody):
    """Measures by itself, newtons; only its rate can be set. It obeys whoever writes."""

    capabilities: ClassVar = frozenset({Capability.ACQUIRES, Capability.SENDS_AGAIN})
    announced: ClassVar = Announcement("_mbap._tcp.local.", "WI")
    offers: ClassVar = Offers(("value",), fastest_hz=20.0, usual_hz=20.0, rates_hz=(10.0, 20.0))

    def __init__(self, host: str, port: int) -> None:
        self._at = f"{host}:{port}"
        self._client = ModbusTcpClient(host, port=port, timeout=TIMEOUT, retries=0)
        self._one_at_a_time = threading.Lock()
        self._again: list[int] = []  # blocks that were asked for again
        self._closed = False

    def connect(self) -> Identity:
        if not self._client.connect():  # type: ignore[no-untyped-call]
            raise DriverError(
                f"nothing answers at {self._at}. Check its cable and power, and the address."
            )
        model = self._read_from(MODEL_AT, MODEL_REGISTERS).decode("ascii", "replace").rstrip(" \0")
        if not model.startswith(self.announced.model):
            raise DriverError(f"what answers at {self._at} is no weighing indicator: “{model}”.")
        now = self._read()
        if now.unit != NEWTON:
            raise DriverError("the indicator shows another unit than newtons. Set it to N.")
        firmware = f"{now.firmware >> 8}.{now.firmware & 0xFF}"
        test = f"fault {now.fault}" if now.fault else "passed"
        return Identity(model, str(now.serial), firmware, test)

    def close(self) -> None:
        self._closed = True
        self._client.close()  # type: ignore[no-untyped-call]

    def read_clock(self, now_ns: Callable[[], int]) -> ClockReading:
        asked = now_ns()
        device_ns = self._read().clock_us * 1000
        answered = now_ns()
        return ClockReading(device_ns, (asked + answered) // 2, (answered - asked) // 2 + 500)

    def configure(self, inputs: list[InputSettings], rate_hz: float) -> AcquisitionStatus:
        """Bring the rate in force and read it back; there is nothing else to set."""
        if self._read().rate != rate_hz:
            self._ask(partial(self._client.write_register, RATE_AT, round(rate_hz)), 1)
        status = self.status()
        if status.rate_hz != rate_hz:
            raise DriverError(f"it measures at {status.rate_hz:g} Hz, not at {rate_hz:g} Hz.")
        return status

    def status(self) -> AcquisitionStatus:
        now = self._read()
        return AcquisitionStatus(now.acquisition, max(0, now.oldest), now.next, float(now.rate))

    def send_again(self, first: int, last: int) -> None:
        """Those of them that are still kept come with the next look."""
        self._again = list(range(first, min(last, first + KEPT) + 1))

    def blocks(self) -> Iterator[SampleBlock]:
        """What is new, every tenth of a second; raises DriverError when it falls silent."""
        now = self._read()
        acquisition, following, idle = now.acquisition, now.next, 0
        while not self._closed:
            if now.acquisition != acquisition:
                acquisition, following = now.acquisition, 0
            asked, self._again = self._again, []
            fresh = range(max(following, now.oldest, 0), now.next)
            for sequence in [*asked, *fresh]:
                if block := now.block(sequence, again=sequence < following):
                    yield block
            idle = 0 if fresh else idle + 1
            if idle > FAULTS_IN_A_ROW:
                raise DriverError("the indicator answers, but measures nothing.")
            following = max(following, now.next)
            time.sleep(LOOK_EVERY)
            now = self._read()

    def _read(self) -> Reading:
        count = HEAD_REGISTERS + 2 * KEPT
        data = self._read_from(0, count)
        head = HEAD.unpack_from(data)
        values = struct.unpack_from(f">{KEPT}i", data, HEAD.size)
        reading = Reading(*[*head, values])
        if not (1 <= reading.rate <= 1000 and reading.decimals <= 6 and reading.kept <= KEPT):
            raise DriverError(f"what answers at {self._at} says impossible things of itself.")
        return reading

    def _read_from(self, first: int, count: int) -> bytes:
        asked = partial(self._client.read_input_registers, first, count=count)
        return struct.pack(f">{count}H", *self._ask(asked, count))

    def _ask(self, request: Callable[[], ModbusPDU], count: int) -> list[int]:
        """One request and its registers; raises DriverError where it is refused or late."""
        try:
            with self._one_at_a_time:
                answer = request()
        except (ModbusException, OSError) as error:
            raise DriverError(
                f"what answers at {self._at} does not speak Modbus, or not in time."
            ) from error
        if answer.isError() or len(answer.registers) < count:
            raise DriverError(f"the indicator at {self._at} refuses what it was asked.")
        return list(answer.registers)
