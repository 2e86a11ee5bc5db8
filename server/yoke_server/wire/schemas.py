from datetime import date, datetime
from typing import Annotated

from ninja import Schema
from pydantic import Field

Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]
Name = Annotated[str, Field(min_length=1, max_length=30)]


class ProjectOut(Schema):
    id: int
    name: str
    customer: str
    article: str
    standard: str
    setups: list["SetupLine"]


class SetupLine(Schema):
    id: int
    name: str
    version: int
    channels: int
    runs: int
    last_run: datetime | None


class CoreOut(Schema):
    """One core of a sensor's cable."""

    colour: str
    pin: int
    function: str


class SensorOut(Schema):
    id: int
    kind: str
    name: str
    serial: str
    quantity: str
    arrangement: str
    wires: int
    resistance_ohm: float
    rated_output_mv_v: float | None
    capacity: float | None
    gauge_factor: float | None
    calibrated_on: date | None
    due_on: date | None
    cores: list[CoreOut]


class ChannelOut(Schema):
    """A channel with all its settings; ``per_mv_v`` is its scaling in SI per mV/V."""

    id: int
    key: str
    device_id: int
    device_label: str
    input_id: int
    input_number: int
    input_label: str
    name: str
    sensor: SensorOut
    quantity: str
    arrangement: str
    active_arms: list[int]
    wires: int
    resistance_ohm: float
    excitation_v: float
    range_mv_v: float
    lead_length_m: float
    lead_ohm_per_m: float
    scaling_kind: str
    gauge_factor: float | None
    poisson_ratio: float | None
    rated_output_mv_v: float | None
    capacity: float | None
    point_1_mv_v: float | None
    point_1_value: float | None
    point_2_mv_v: float | None
    point_2_value: float | None
    reversed: bool
    per_mv_v: float
    zero_mv_v: float | None
    zeroed_at: datetime | None
    tare: float | None
    tared_at: datetime | None
    shunt_expected_mv_v: float | None
    shunt_measured_mv_v: float | None
    shunt_at: datetime | None
    unit: str
    decimals: int


class GapOut(Schema):
    """Something to mend before a run; one that ``blocks`` keeps it from starting."""

    code: str
    stage: str
    text: str
    hint: str
    blocks: bool


class RateOut(Schema):
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
    specimen: str
    width_m: float
    thickness_m: float
    gauge_length_m: float
    pull_speed_m_s: float
    travel_limit_m: float
    force_drop: float
    arm_force_n: float
    channels: list[ChannelOut]
    gaps: list[GapOut]
    undo: str
    redo: str
    runs: int
    results: int
    reports: int


class ChannelIn(Schema):
    input_id: int
    sensor_id: int
    name: Name


class ChannelChange(Schema):
    """Wiring and display of a channel; what is left out stays."""

    name: Name | None = None
    excitation_v: Positive | None = None
    range_mv_v: Positive | None = None
    resistance_ohm: Positive | None = None
    lead_length_m: Annotated[float, Field(ge=0, le=500)] | None = None
    unit: Annotated[str, Field(min_length=1, max_length=12)] | None = None
    decimals: Annotated[int, Field(ge=0, le=6)] | None = None


class ChannelOfMany(ChannelChange):
    id: int


class ManyChannels(Schema):
    """Changes of many channels that are one deed."""

    channels: Annotated[list[ChannelOfMany], Field(min_length=1, max_length=512)]


class RateChange(Schema):
    rate_hz: Annotated[float, Field(ge=10, le=50_000, allow_inf_nan=False)]


class SetupChange(Schema):
    """The setup itself; lengths m, speeds m/s, what is left out stays."""

    name: Annotated[str, Field(min_length=1, max_length=80)] | None = None
    run_name_pattern: Annotated[str, Field(min_length=1, max_length=60)] | None = None
    specimen: Name | None = None
    width_m: Positive | None = None
    thickness_m: Positive | None = None
    gauge_length_m: Positive | None = None
    pull_speed_m_s: Annotated[float, Field(gt=0, le=5e-3)] | None = None
    travel_limit_m: Annotated[float, Field(gt=0, le=25e-3)] | None = None
    force_drop: Annotated[float, Field(gt=0, lt=1)] | None = None


class Undone(Schema):
    action: str
