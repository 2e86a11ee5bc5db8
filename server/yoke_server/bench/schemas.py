from datetime import datetime
from typing import Annotated

from ninja import Schema
from pydantic import Field

from yoke_server.bench.address import Host, Port
from yoke_server.bench.drivers.base import Capability
from yoke_server.common.http.fields import Body, Text


class InputOut(Schema):
    """One plug of a device."""

    id: int
    number: int
    label: str
    signal: str


class DeviceOut(Schema):
    """A device: what it says of itself, who controls it, how its clock runs.

    ``twin`` is another device that says it has the same serial number: one of both is wrong.
    """

    id: int
    label: str
    driver: str
    capabilities: list[Capability]
    host: str
    port: int
    twin: str
    link: str
    link_note: str
    identity: str
    serial: str
    firmware: str
    self_test: str
    temperature_c: float | None
    battery: float | None
    controlled_by: str
    drift_ppm: float | None
    clock_steps: int
    inputs: list[InputOut]


class BenchOut(Schema):
    """A bench, its devices, and who holds its yoke."""

    id: int
    name: str
    active_setup: int | None
    yoke_holder: str
    yoke_mine: bool
    yoke_me_elsewhere: bool
    archived_at: datetime | None
    devices: list[DeviceOut]


class BenchIn(Body):
    name: Annotated[str, Text(1, 60)]


class DeviceIn(Body):
    """A device and where it answers; ``driver`` is what it is, one of `/api/drivers`."""

    label: Annotated[str, Text(1, 12)]
    driver: Annotated[str, Text(1, 30)]
    host: Host
    port: Port


class DriverOut(Schema):
    """What a device can be, what its inputs give and can be set to, and what it can do."""

    name: str
    signals: list[str]
    excitations_v: list[float]
    ranges_mv_v: list[float]
    carriers_hz: list[float]
    capabilities: list[Capability]


class DiscoveredDevice(Schema):
    """A device that announces itself; ``on`` is the bench and label it has already.

    ``moved``: it is there at another address. Without a driver nothing here speaks to it.
    """

    driver: str
    model: str
    serial: str
    firmware: str
    host: str
    port: int
    on: str
    label: str
    moved: bool


class DiscoveredOut(Schema):
    devices: list[DiscoveredDevice]


class AddressIn(Body):
    """Where something answers, and what it should be."""

    driver: Annotated[str, Text(1, 30)]
    host: Host
    port: Port


class ReadingOut(Schema):
    """What an input reads, SI or as the device says; no value where it clips."""

    number: int
    signal: str
    value: float | None


class TrialOut(Schema):
    """What a device says of itself when it is tried; ``stands`` is how an actuator stands."""

    model: str
    serial: str
    firmware: str
    self_test: str
    controlled_by: str
    rate_hz: float | None
    readings: list[ReadingOut]
    stands: str


class BenchText(Body):
    """A bench file, or the beginning of one."""

    text: Annotated[str, Field(max_length=200_000)]


class BenchTextOut(Schema):
    text: str


class Changes(Schema):
    """What is done to the bench, a sentence each."""

    changes: list[str]


class TakeYoke(Body):
    """A reason is needed to take it from somebody else."""

    reason: Annotated[str, Text(0, 80)] = ""


class BenchLine(Schema):
    """A bench; ``yoke_mine`` if the person holds its yoke, here or elsewhere."""

    id: int
    name: str
    yoke_holder: str
    yoke_mine: bool
    devices: int
    setups: int
    archived_at: datetime | None
