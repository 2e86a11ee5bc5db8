"""The protocols that drivers implement."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, fields
from enum import StrEnum
from typing import ClassVar, Protocol

import numpy as np
from numpy.typing import NDArray
from yoke_core.timebase.clock import ClockReading
from yoke_core.wiring.probe import Probe


class DriverError(Exception):
    """The device, or the way to it, is at fault; the text is for the person at the bench."""


class LinkBroken(DriverError):
    """Nothing more can be said on this connection: it broke, or answers no longer fit questions."""


class AddressUnknown(DriverError):
    """The address cannot be reached or resolved; retrying soon is useless."""


class Refusal(DriverError):
    """The device is there and well, but does not take a command."""


class ControlRefused(DriverError):
    """Another host controls the device; its samples may still be listened to."""


class Capability(StrEnum):
    ACQUIRES = "acquires"
    CONDITIONS = "conditions"
    SHUNTS = "shunts"
    SENDS_AGAIN = "sends again"
    DIAGNOSES = "diagnoses"
    PRETENDS = "pretends"  # a stand-in that can be given faults
    SHEETS = "data sheets"  # reads and writes the memories of plugs
    SERIAL_LINE = "serial line"  # it may hang on one of the bench's computer
    MOVES = "moves"
    CONTROLS_FORCE = "controls force"


def printable(text: str) -> str:
    """What a device said, without the characters that no database and no screen takes."""
    return "".join(c for c in text if c.isprintable()).strip()


@dataclass(frozen=True, slots=True)
class Identity:
    """What a device says of itself; only printable characters of it are kept."""

    model: str
    serial: str
    firmware: str
    self_test: str

    def __post_init__(self) -> None:
        for field in fields(self):
            object.__setattr__(self, field.name, printable(getattr(self, field.name)))


@dataclass(frozen=True, slots=True)
class Offers:
    """What the inputs of a make of device measure, in order, and can be set to.

    max_balance : how much of a bridge's output (V/V) it can take off, either way
    bits : of its converter over a range from end to end; None where it does not say
    """

    signals: tuple[str, ...] = ()
    excitations_v: tuple[float, ...] = ()
    ranges_mv_v: tuple[float, ...] = ()
    completions_ohm: tuple[float, ...] = ()
    carriers_hz: tuple[float, ...] = (0.0,)
    slowest_hz: float = 10.0
    fastest_hz: float = 50_000.0
    usual_hz: float = 1000.0  # that a setup begins with
    rates_hz: tuple[float, ...] = ()  # the only ones, where it does not take any
    max_balance: float = 0.0
    bits: int | None = None

    def least_bit(self, reach: float) -> float | None:
        """The step of the converter, where an input goes so far either way."""
        return None if self.bits is None else 2 * reach / 2**self.bits


@dataclass(frozen=True, slots=True)
class Announcement:
    """As what devices of a make are found on the network: DNS-SD service, begin of the model."""

    service: str
    model: str


TEXT_COMMANDS = "_scpi-raw._tcp.local."


@dataclass(frozen=True, slots=True)
class InputSettings:
    """Conditioning of one bridge input; excitation V, range mV/V, completion ohm, carrier Hz.

    balance : taken off the bridge's output before it is converted
    """

    number: int
    bridge: str  # quarter, half, opposite or full
    completion_ohm: float
    excitation_v: float
    range_mv_v: float
    carrier_hz: float = 0.0  # 0: direct current
    balance: float = 0.0  # V/V


@dataclass(frozen=True, slots=True)
class SampleBlock:
    """Consecutive samples of all inputs, as the device sent them."""

    acquisition: int
    sequence: int
    time_ns: int  # device time of the first sample
    rate_hz: float  # by the device's clock
    full_scale: NDArray[np.float32]  # signal (V/V for bridges) at count ``rail``, per input
    counts: NDArray[np.int32]  # (samples, inputs)
    again: bool  # sent on request, out of the device's memory
    rail: int = 2**23 - 1

    @property
    def samples(self) -> int:
        return len(self.counts)


@dataclass(frozen=True, slots=True)
class AcquisitionStatus:
    acquisition: int
    oldest: int  # sequence still in the device's memory
    next: int  # sequence of the block to come
    rate_hz: float


MOVING = frozenset({"RAMP", "FORCE", "SINE", "PLAY", "RETURN"})


@dataclass(frozen=True, slots=True)
class FrameState:
    """The state of an actuator."""

    motion: str  # HOLD, RAMP, FORCE, SINE, PLAY, RETURN or TRIPPED
    position_m: float
    cause: str = ""  # why it last came to stand; "arrived" when it had done what it was told
    motion_id: str = ""  # of the motion that it last began, as it was named

    @property
    def moving(self) -> bool:
        return self.motion in MOVING


@dataclass(frozen=True, slots=True)
class Housekeeping:
    """How a device is: its temperature inside, and what is left of its battery (1: full); None
    where it cannot say, or runs on mains."""

    temperature_c: float | None = None
    battery: float | None = None


class AcquiringDriver(Protocol):
    """An amplifier. `blocks` and `more` are for one thread, everything else for another."""

    capabilities: ClassVar[frozenset[Capability]]
    offers: ClassVar[Offers]
    announced: ClassVar[Announcement]

    def connect(self) -> Identity: ...
    def close(self) -> None: ...
    def take_control(self, host: str) -> None: ...
    def controller(self) -> str: ...
    def housekeeping(self) -> Housekeeping: ...
    def read_clock(self, now_ns: Callable[[], int]) -> ClockReading: ...
    def configure(self, inputs: list[InputSettings], rate_hz: float) -> AcquisitionStatus: ...
    def status(self) -> AcquisitionStatus: ...
    def set_shunt(self, inputs: list[int], on: bool) -> None: ...
    def shunt_ohm(self, number: int) -> float: ...
    def send_again(self, first: int, last: int) -> None: ...
    def probe(self, inputs: list[int]) -> dict[int, Probe]: ...
    def pretend(self, number: int, faults: str) -> None: ...
    def read_sheets(self) -> dict[int, bytes]: ...
    def write_sheet(self, number: int, memory: bytes) -> None: ...
    def blocks(self) -> Iterator[SampleBlock]: ...
    def more(self) -> bool: ...  # whether blocks may be had without waiting, or must not wait


class MovingDriver(Protocol):
    """An actuator; SI units. Every method is a sign of life from the host.

    Each motion is named by whoever begins it; `state` gives that name back. `stop` needs no
    control of the device.
    """

    capabilities: ClassVar[frozenset[Capability]]
    announced: ClassVar[Announcement]

    def connect(self) -> Identity: ...
    def close(self) -> None: ...
    def take_control(self, host: str) -> None: ...
    def ramp(self, motion_id: str, speed_m_s: float, target_m: float) -> None: ...
    def force_ramp(self, motion_id: str, rate_n_s: float, peak_n: float) -> None: ...
    def force_sine(
        self, motion_id: str, lowest_n: float, highest_n: float, frequency_hz: float
    ) -> None: ...
    def force_to(self, motion_id: str, rate_n_s: float, force_n: float) -> None: ...
    def force_wave(
        self,
        motion_id: str,
        shape: str,
        lowest_n: float,
        highest_n: float,
        frequency_hz: float,
        cycles: int,
    ) -> None: ...
    def trim(self, lowest_n: float, highest_n: float) -> None: ...
    def play(
        self,
        motion_id: str,
        forces_n: Sequence[float],
        rate_hz: float,
        rounds: int,
        begin_s: float,
    ) -> None: ...
    def switch(self, motion_id: str, output: int, on: bool) -> None: ...
    def go_home(self, motion_id: str) -> None: ...
    def stop(self) -> None: ...
    def state(self) -> FrameState: ...
