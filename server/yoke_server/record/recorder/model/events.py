"""The events that a bench's runner receives from ports, listeners and the database."""

from dataclasses import dataclass, field
from datetime import datetime
from typing import Generic, TypeVar

from yoke_core.timebase.clock import ClockReading
from yoke_core.wiring.probe import Probe

from yoke_server.bench.drivers.base import (
    AcquisitionStatus,
    FrameState,
    Housekeeping,
    Identity,
    SampleBlock,
)
from yoke_server.bench.orders import OrderSpec
from yoke_server.bench.stops import StopRequested
from yoke_server.record.recorder.model.progress import (
    KeptStream,
    ResumedStream,
    RunProgress,
    StreamName,
)
from yoke_server.setups.document import FrozenSetup

# From the devices' ports


@dataclass(frozen=True, slots=True)
class Linked:
    device: str
    identity: Identity
    controlled_by_other: str  # empty: this recorder controls it


@dataclass(frozen=True, slots=True)
class HousekeepingRead:
    device: str
    housekeeping: Housekeeping


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
class StatusRead:
    """Where in what it samples a device is, or why it does not say."""

    device: str
    token: str
    status: AcquisitionStatus | None
    problem: str = ""


@dataclass(frozen=True, slots=True)
class ShuntSet:
    """Shunts are switched, ``since`` where the device was then; or why they are not."""

    device: str
    token: str
    on: bool
    shunt_ohm: float = 0.0
    problem: str = ""
    since: AcquisitionStatus | None = None


@dataclass(frozen=True, slots=True)
class Probed:
    """What a device's checking circuit read, by input; none where it has no such circuit."""

    device: str
    token: str
    probes: dict[int, Probe]
    problem: str = ""
    since: AcquisitionStatus | None = None  # where the device was then


@dataclass(frozen=True, slots=True)
class CommandFinished:
    """A device has done what it was told beside its measuring, or why not."""

    device: str
    token: str
    answer: dict[str, object]
    problem: str = ""


# From the actuators' ports


@dataclass(frozen=True, slots=True)
class ActuatorConnected:
    actuator: str
    identity: Identity


@dataclass(frozen=True, slots=True)
class ActuatorLost:
    actuator: str
    why: str


@dataclass(frozen=True, slots=True)
class ActuatorState:
    actuator: str
    state: FrameState


@dataclass(frozen=True, slots=True)
class ActuatorCommandFinished:
    """A command to an actuator was carried out, or why not.

    action : begin (a motion) or stop
    token : the motion's id, or that of whoever waits for the stop
    """

    actuator: str
    action: str
    token: str
    problem: str = ""


# From the people, through the database


S_co = TypeVar("S_co", bound=OrderSpec, covariant=True)


@dataclass(frozen=True, slots=True)
class OrderIn(Generic[S_co]):
    """An order, claimed for this recorder alone.

    requested_at : when a person asked for it, by the database's clock
    deadline : monotonic; it is not begun with later
    setup : what a start is about
    """

    key: str
    order: S_co
    requested_at: datetime
    deadline: float
    setup: FrozenSetup | None = None


@dataclass(frozen=True, slots=True)
class StopsReleased:
    """It is written down that emergency stops are released that were given before a request."""

    requested_at: datetime


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
class OpenRunLoaded:
    """A run that an earlier recorder left open, and how far it had come."""

    run_id: int
    run_name: str
    setup: FrozenSetup
    start_ns: int
    streams: dict[str, ResumedStream] = field(default_factory=dict)  # main ones, by device
    kept: dict[StreamName, KeptStream] = field(default_factory=dict)
    progress: RunProgress = field(default_factory=RunProgress)
    is_dry: bool = False


@dataclass(frozen=True, slots=True)
class NoOpenRun:
    """Nothing is to be gone on with: the bench is free."""


# From the writer


@dataclass(frozen=True, slots=True)
class Began:
    order_key: str
    run_id: int
    run_name: str
    streams: dict[StreamName, int]
    computed: dict[str, int] = field(default_factory=dict)  # id by channel key


@dataclass(frozen=True, slots=True)
class NotBegun:
    order_key: str
    why: str


@dataclass(frozen=True, slots=True)
class RunClosed:
    """A run's end is in the database, or the database will never take it (``problem``)."""

    run_id: int
    problem: str = ""


@dataclass(frozen=True, slots=True)
class WriteRefused:
    """The database will never take this, however often it is tried."""

    run_id: int
    why: str


@dataclass(frozen=True, slots=True)
class BenchLocked:
    """Another recorder has taken the bench while this one's database was away."""


Event = (
    Linked | HousekeepingRead | Lost | Arrived | ClockRead | Configured | StatusRead | ShuntSet
    | Probed | CommandFinished | ActuatorConnected | ActuatorLost | ActuatorState
    | ActuatorCommandFinished | OrderIn[OrderSpec] | StopRequested | StopsReleased | DevicesKnown
    | SetupLoaded | OpenRunLoaded | NoOpenRun | Began | NotBegun | RunClosed | WriteRefused
    | BenchLocked
)  # fmt: skip
