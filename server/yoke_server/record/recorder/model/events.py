"""What happens to a bench: everything that its recorder hears, from wherever it comes."""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Any

from yoke_core.clock import ClockReading
from yoke_core.wiring.probe import Probe

from yoke_server.bench.drivers.base import (
    AcquisitionStatus,
    FrameState,
    Identity,
    SampleBlock,
)
from yoke_server.record.recorder.storage.resume import ResumedStream
from yoke_server.wire.document import FrozenSetup

# From the devices' ports


@dataclass(frozen=True, slots=True)
class Linked:
    device: str
    identity: Identity
    controlled_by_other: str  # empty: this recorder controls it
    temperature_c: float | None = None


@dataclass(frozen=True, slots=True)
class Lost:
    device: str
    why: str


@dataclass(frozen=True, slots=True)
class Arrived:
    device: str
    block: SampleBlock


@dataclass(frozen=True, slots=True)
class ClockRead:
    device: str
    reading: ClockReading


@dataclass(frozen=True, slots=True)
class Configured:
    """Settings are in force and read back, or why not."""

    device: str
    token: str
    status: AcquisitionStatus | None
    problem: str = ""


@dataclass(frozen=True, slots=True)
class ShuntSet:
    device: str
    token: str
    on: bool
    shunt_ohm: float = 0.0
    problem: str = ""


@dataclass(frozen=True, slots=True)
class Probed:
    """What a device's checking circuit read, by input; none where it has no such circuit."""

    device: str
    token: str
    probes: dict[int, Probe]
    problem: str = ""


@dataclass(frozen=True, slots=True)
class CommandFinished:
    """A device has done what it was told beside its measuring, or why not."""

    device: str
    token: str
    answer: dict[str, Any]
    problem: str = ""


# From the actuator's port


@dataclass(frozen=True, slots=True)
class ActuatorConnected:
    identity: Identity


@dataclass(frozen=True, slots=True)
class ActuatorLost:
    why: str


@dataclass(frozen=True, slots=True)
class ActuatorState:
    state: FrameState


@dataclass(frozen=True, slots=True)
class ActuatorCommandFinished:
    """An order to the actuator was carried out, or why not."""

    deed: str  # ramp, home or stop
    token: str
    problem: str = ""


# From the store


@dataclass(frozen=True, slots=True)
class OrderIn:
    """An order, claimed for this recorder alone. ``setup`` comes with a start."""

    key: str
    kind: str
    arguments: dict[str, Any]
    expires_at: datetime
    setup: FrozenSetup | None = None


@dataclass(frozen=True, slots=True)
class Address:
    """Where a device is, and the name of its driver."""

    driver: str
    host: str
    port: int


@dataclass(frozen=True, slots=True)
class DevicesKnown:
    devices: dict[str, Address]  # by label


@dataclass(frozen=True, slots=True)
class SetupLoaded:
    setup: FrozenSetup | None


@dataclass(frozen=True, slots=True)
class OpenRunFound:
    """A run that an earlier recorder left open."""

    run_id: int
    run_name: str
    setup: FrozenSetup
    start_ns: int
    streams: dict[str, ResumedStream] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Began:
    order_key: str
    run_id: int
    run_name: str
    streams: dict[str, int]  # id by device label


@dataclass(frozen=True, slots=True)
class NotBegun:
    order_key: str
    why: str


@dataclass(frozen=True, slots=True)
class WriteRefused:
    """The database will never take this, however often it is tried."""

    run_id: int
    why: str


@dataclass(frozen=True, slots=True)
class BenchTaken:
    """Another recorder has taken the bench while this one's database was away."""


Event = (
    Linked | Lost | Arrived | ClockRead | Configured | ShuntSet | Probed | CommandFinished
    | ActuatorConnected | ActuatorLost | ActuatorState | ActuatorCommandFinished
    | OrderIn | DevicesKnown | SetupLoaded | OpenRunFound
    | Began | NotBegun | WriteRefused | BenchTaken
)  # fmt: skip
