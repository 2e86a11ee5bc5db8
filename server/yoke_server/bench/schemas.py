from typing import Annotated

from ninja import Schema
from pydantic import Field

from yoke_server.common.fields import Body, Text


class InputOut(Schema):
    """One plug of a device."""

    id: int
    number: int
    label: str
    signal: str


class DeviceOut(Schema):
    """A device: what it says of itself, who controls it, how its clock runs."""

    id: int
    label: str
    driver: str
    capabilities: list[str]
    link: str
    link_note: str
    identity: str
    serial: str
    firmware: str
    self_test: str
    temperature_c: float | None
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
    devices: list[DeviceOut]


class BenchIn(Body):
    name: Annotated[str, Text(1, 60)]


class DeviceIn(Body):
    """A device and where it answers; ``driver`` is what it is, one of `/api/drivers`."""

    label: Annotated[str, Text(1, 12)]
    driver: Annotated[str, Text(1, 30)]
    host: Annotated[str, Field(pattern=r"^[A-Za-z0-9._:-]{1,100}$")]
    port: Annotated[int, Field(ge=1, le=65535)]


class TakeYoke(Body):
    """A reason is needed to take it from somebody else."""

    reason: Annotated[str, Text(0, 80)] = ""


class BenchLine(Schema):
    """A bench; ``yoke_mine`` if the person holds its yoke, here or elsewhere."""

    id: int
    name: str
    yoke_mine: bool
