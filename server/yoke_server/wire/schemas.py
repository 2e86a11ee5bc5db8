from datetime import date, datetime
from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from yoke_server.common import fields
from yoke_server.common.fields import Answer, Body, Id, Text, unset
from yoke_server.wire.check.schemas import CheckOut
from yoke_server.wire.document import PolarityName
from yoke_server.wire.sign.schemas import SignOut
from yoke_server.wire.specs.conditioning import ConditioningSpec
from yoke_server.wire.specs.grid import Grid
from yoke_server.wire.specs.motion import MotionSpec
from yoke_server.wire.specs.scaling import ScalingSpec
from yoke_server.wire.specs.sensor import SensorSpec
from yoke_server.wire.specs.specimen import SpecimenSpec
from yoke_server.wire.specs.stop import StopList, StopSpec
from yoke_server.wire.specs.wiring import WiringSpec


class UnitOut(Schema):
    """A unit of a quantity or of a signal; the first of a quantity is the usual one."""

    quantity: str
    name: str
    factor: float
    offset: float


class ProjectOut(Schema):
    """A project with what each of its setups is at."""

    id: int
    name: str
    customer: str
    article: str
    standard: str
    archived_at: datetime | None
    setups: list["SetupLine"]


class LastRun(Schema):
    """The newest run of a setup; ``channel`` shows what it was like."""

    id: int
    name: str
    state: str
    started_at: datetime
    ended_because: str
    channel: str
    channel_name: str
    unit: str


class NextAction(Schema):
    """What a setup waits for, and in which stage."""

    stage: str
    action: str
    reason: str


class SetupLine(Schema):
    """A setup's progress through the stages."""

    id: int
    name: str
    version: int
    bench_id: int
    bench_name: str
    on_bench: bool
    channels: int
    to_zero: int
    runs: int
    recording: bool
    results: int
    stale: int
    reports: int
    last_run: LastRun | None
    next: NextAction


ProjectText = Annotated[str, Text(0, 80)]


class ProjectIn(Body):
    """A project; the article is what is tested, the standard how."""

    name: Annotated[str, Text(1, 80)]
    customer: ProjectText = ""
    article: Annotated[str, Text(0, 120)] = ""
    standard: ProjectText = ""


class ProjectChange(Body):
    """What is left out stays."""

    name: Annotated[str, Text(1, 80)] = unset()
    customer: ProjectText = unset()
    article: Annotated[str, Text(0, 120)] = unset()
    standard: ProjectText = unset()


class SetupPresetOut(Schema):
    """A kind of test that a setup can begin as."""

    kind: str
    name: str


class SetupIn(Body):
    kind: Literal["tension", "component", "measuring"]
    bench_id: Id
    name: Annotated[str, Text(1, 80)]


class CoreOut(Answer):
    """One core of a sensor's cable."""

    colour: str
    pin: int
    function: str


class CalibrationStatusOut(Answer):
    """How a calibration stands today; ``elapsed`` is the share of its term, 0 to 1."""

    status: Literal["overdue", "soon", "in force", "without"]
    words: str
    elapsed: float


class SensorOut(Answer):
    id: int
    kind: str
    name: str
    serial: str
    quantity: str
    signal: str
    spec: SensorSpec
    calibrated_on: date | None
    due_on: date | None
    calibration_status: CalibrationStatusOut
    cores: list[CoreOut]


class HeatingOut(Answer):
    """Power of an excited grid over its area, and what the part under it carries.

    ``best_v`` is the highest excitation that it carries; 0 where none does. Of a part that is
    not named only the power is known.
    """

    density_w_m2: float
    carries_w_m2: float | None = None
    best_v: float | None = None
    well: bool | None = None


class ChannelOut(Answer):
    """A channel with all its settings.

    ``per_signal`` is its scaling near rest, quantity by signal in SI; 0 where
    ``scaling_problem`` says what is wrong. ``ends`` are the signals between which it counts.
    """

    id: int
    key: str
    device_id: int
    device_label: str
    input_id: int
    input_number: int
    input_label: str
    name: str
    sensor: SensorOut
    signal: str
    quantity: str
    active_arms: list[int]
    completion_ohm: float | None
    wiring: WiringSpec
    conditioning: ConditioningSpec
    scaling: ScalingSpec
    polarity: PolarityName
    recorded: bool
    grid: Grid | None
    per_signal: float
    ends: list[float]
    scaling_problem: str
    takes_zero: bool
    zero: float | None
    zeroed_at: datetime | None
    tare: float | None
    tared_at: datetime | None
    shunt_expected_mv_v: float | None
    shunt_measured_mv_v: float | None
    shunt_at: datetime | None
    unit: str
    decimals: int
    check: CheckOut | None
    heating: HeatingOut | None
    sign: SignOut


class RosetteOut(Answer):
    """A rosette that is wired whole; ``key`` is that of its live largest strain."""

    name: str
    key: str


class GapOut(Answer):
    """Something to mend before a run; one that ``blocks`` keeps it from starting."""

    code: str
    stage: str
    text: str
    hint: str
    blocks: bool


class RateOut(Answer):
    """At which rate the setup has a device sample."""

    device_id: int
    device_label: str
    rate_hz: float


class SetupOut(Schema):
    """A setup with its channels, what is missing for a run, and what can be undone."""

    id: int
    name: str
    version: int
    project_id: int
    project_name: str
    bench_id: int
    rates: list[RateOut]
    run_name_pattern: str
    next_run_name: str
    next_specimen: str
    specimen: str
    piece: SpecimenSpec
    motion: MotionSpec
    stops: list[StopSpec]
    channels: list[ChannelOut]
    rosettes: list[RosetteOut]
    free_names: dict[str, str]
    gaps: list[GapOut]
    undo: str
    redo: str
    runs: int
    results: int
    reports: int


class ChannelIn(Body):
    input_id: Id
    sensor_id: Id
    name: fields.Name


class ChannelChange(Body):
    """Wiring and display of a channel; what is left out stays."""

    name: fields.Name = unset()
    wiring: WiringSpec = unset()
    conditioning: ConditioningSpec = unset()
    recorded: bool = unset()
    unit: Annotated[str, Text(1, 12)] = unset()
    decimals: fields.Decimals = unset()


class ChannelOfMany(ChannelChange):
    id: Id


class ManyChannels(Body):
    """Changes of many channels that are one action."""

    channels: Annotated[list[ChannelOfMany], Field(min_length=1, max_length=512)]


class RateChange(Body):
    rate_hz: fields.Rate


class SpecimenChange(Body):
    """The test piece; what is left out stays."""

    specimen: fields.Name = unset()
    piece: SpecimenSpec = unset()


class SetupChange(SpecimenChange):
    """The setup itself; what is left out stays."""

    name: Annotated[str, Text(1, 80)] = unset()
    run_name_pattern: Annotated[str, Text(1, 60)] = unset()
    motion: MotionSpec = unset()
    stops: StopList = unset()


class Undone(Schema):
    action: str
