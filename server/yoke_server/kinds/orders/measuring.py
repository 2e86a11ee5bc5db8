"""Orders that measure channels, by key, and what was measured."""

import math
from typing import ClassVar, Literal

from pydantic import BaseModel, ConfigDict, RootModel

from yoke_server.bench.orders import OrderAnswer, OrderSpec


class Reading(BaseModel):
    model_config = ConfigDict(frozen=True)


class RestReading(Reading):
    """Mean and deviation of a signal at rest, SI; none where all of it clipped.

    moved : range of the means of its parts, by which it went while it was measured
    """

    mean: float | None
    deviation: float | None
    clipped: bool
    moved: float | None = None

    @property
    def value(self) -> float:
        """The mean; NaN where there is none."""
        return math.nan if self.mean is None else self.mean


class RestReadings(RootModel[dict[str, RestReading]], OrderAnswer):
    """By channel key."""


class MeasureAtRest(OrderSpec):
    """Measure channels at rest, for a zero or a tare."""

    answer: ClassVar = RestReadings

    kind: Literal["measure"] = "measure"
    channels: list[str]


class ShuntReading(Reading):
    """What the shunt changed; none where it clipped. ``moved``: the signal went by itself."""

    step_mv_v: float | None
    clipped: bool
    moved: bool
    shunt_ohm: float


class ShuntReadings(RootModel[dict[str, ShuntReading]], OrderAnswer):
    """By channel key."""


class CheckShunts(OrderSpec):
    """Switch the amplifier's own resistor on and off, and measure what it changes."""

    answer: ClassVar = ShuntReadings

    kind: Literal["shunt"] = "shunt"
    channels: list[str]


class WiringReading(Reading):
    """Facts of a channel's samples, and what was read at the pins of a bridge.

    As `yoke_core.wiring` names them; none where there is no number.
    """

    samples: dict[str, float | bool | None]
    probe: dict[str, dict[str, object]] | None


class WiringReadings(RootModel[dict[str, WiringReading]], OrderAnswer):
    """By channel key."""


class CheckWiring(OrderSpec):
    """Measure the wiring of channels; ``of`` are the fingerprints of what each was wired as."""

    answer: ClassVar = WiringReadings

    kind: Literal["check"] = "check"
    channels: list[str]
    of: dict[str, str] = {}


class SignalReading(Reading):
    """A snapshot of a channel, in its signal's unit; see `yoke_core.snapshot.facts`. None where
    there is no number. ``count``: the signal of one count of the converter."""

    rate_hz: float
    samples: int
    mean: float | None
    noise: float | None
    drift: float
    peak_to_peak: float | None
    hum: list[tuple[float, float]]
    hum_share: float
    averaged: float | None
    clipped: int
    flat: bool
    level_bits: float | None
    noise_bits: float | None
    low: list[float | None]
    high: list[float | None]
    opening: list[float | None]
    amplitude: list[float | None]
    points: list[float | None]
    count: float | None


class SignalSnapshot(OrderAnswer):
    """Snapshots by channel key, and which channels of a device go with each other."""

    channels: dict[str, SignalReading]
    alike: list[tuple[str, str, float]]


class TakeSnapshot(OrderSpec):
    """Look at some seconds of channels as they are; nothing is switched, and runs go on."""

    answer: ClassVar = SignalSnapshot
    is_taken_always: ClassVar = True

    kind: Literal["snapshot"] = "snapshot"
    channels: list[str]
    mains_hz: float
