"""What every driver offers, whatever the make of the device."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray


class DriverError(Exception):
    """The device, or the way to it, is at fault; the text is for the person at the bench."""


@dataclass(frozen=True, slots=True)
class Identity:
    """What a device says of itself."""

    model: str
    serial: str
    firmware: str
    self_test: str


@dataclass(frozen=True, slots=True)
class InputSettings:
    """Conditioning of one bridge input; excitation V, range mV/V, completion ohm."""

    number: int
    bridge: str  # quarter, half or full
    completion_ohm: float
    excitation_v: float
    range_mv_v: float


@dataclass(frozen=True, slots=True)
class SampleBlock:
    """Consecutive samples of all inputs, as the device sent them."""

    acquisition: int
    sequence: int
    time_ns: int  # device time of the first sample
    rate_hz: float
    full_scale: NDArray[np.float32]  # V/V per input
    counts: NDArray[np.int32]  # (samples, inputs)
    again: bool  # sent on request, out of the device's memory

    @property
    def samples(self) -> int:
        return len(self.counts)


@dataclass(frozen=True, slots=True)
class AcquisitionStatus:
    acquisition: int
    oldest: int  # sequence still in the device's memory
    next: int  # sequence of the block to come
    rate_hz: float


class AmplifierDriver(Protocol):
    """An amplifier. Control methods are for one thread, `blocks` for another."""

    full_counts: int

    def connect(self) -> Identity: ...
    def close(self) -> None: ...
    def temperature_c(self) -> float: ...
    def configure(self, inputs: list[InputSettings], rate_hz: float) -> None: ...
    def status(self) -> AcquisitionStatus: ...
    def set_shunt(self, inputs: list[int], on: bool) -> None: ...
    def shunt_ohm(self, number: int) -> float: ...
    def send_again(self, first: int, last: int) -> None: ...
    def blocks(self) -> Iterator[SampleBlock]: ...
