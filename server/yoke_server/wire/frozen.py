"""A setup as plain data: what the recorder works with and what a run keeps for good."""

from datetime import date, datetime
from typing import Any, Literal

from django.db.models import Model
from django.forms.models import model_to_dict
from pydantic import BaseModel, ConfigDict

from yoke_server.wire.models import Channel, Setup


class FrozenChannel(BaseModel):
    """One channel with its wiring, scaling, zero and shunt check."""

    model_config = ConfigDict(frozen=True)

    id: int
    name: str
    input_number: int
    amplifier_label: str
    amplifier_serial: str
    sensor_name: str
    sensor_serial: str
    calibrated_on: date | None
    due_on: date | None
    quantity: str
    arrangement: str
    wires: int
    resistance_ohm: float
    excitation_v: float
    range_mv_v: float
    scaling_kind: Literal["strain", "rated_output", "two_points"]
    gauge_factor: float | None
    poisson_ratio: float | None
    rated_output_mv_v: float | None
    capacity: float | None
    point_1_mv_v: float | None
    point_1_value: float | None
    point_2_mv_v: float | None
    point_2_value: float | None
    reversed: bool
    zero_mv_v: float | None
    zeroed_at: datetime | None
    shunt_expected_mv_v: float | None
    shunt_measured_mv_v: float | None
    shunt_at: datetime | None
    unit: str
    decimals: int


class FrozenSetup(BaseModel):
    """A setup at one version; ``schema_version`` rises when this shape changes."""

    model_config = ConfigDict(frozen=True)

    schema_version: Literal[1] = 1
    setup_id: int
    name: str
    version: int
    project: str
    bench: str
    rate_hz: float
    pull_speed_m_s: float
    travel_limit_m: float
    force_drop: float
    arm_force_n: float
    channels: list[FrozenChannel]

    def channel(self, quantity: str) -> FrozenChannel | None:
        """The first channel that measures ``quantity``."""
        return next((c for c in self.channels if c.quantity == quantity), None)


def _fields(row: Model, shape: type[BaseModel]) -> dict[str, Any]:
    return {k: v for k, v in model_to_dict(row).items() if k in shape.model_fields}


def freeze_channel(channel: Channel) -> FrozenChannel:
    return FrozenChannel(
        **_fields(channel, FrozenChannel),
        amplifier_label=channel.amplifier.label,
        amplifier_serial=channel.amplifier.serial,
        sensor_name=channel.sensor.name,
        sensor_serial=channel.sensor.serial,
        calibrated_on=channel.sensor.calibrated_on,
        due_on=channel.sensor.due_on,
    )


def freeze(setup: Setup) -> FrozenSetup:
    channels = setup.channels.select_related("amplifier", "sensor").order_by("input_number")
    return FrozenSetup(
        **_fields(setup, FrozenSetup) | {"bench": setup.bench.name, "project": setup.project.name},
        setup_id=setup.pk,
        channels=[freeze_channel(c) for c in channels],
    )
