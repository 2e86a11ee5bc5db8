"""Corrections of a strain gauge's reading."""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Annotated, ClassVar, Literal, Self

from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.common.units import to_si
from yoke_server.kinds.lack import Lack
from yoke_server.kinds.measured import MeasuredChannel
from yoke_server.kinds.steps.base import ReadingStep

if TYPE_CHECKING:
    from yoke_core.scaling.line import Line
    from yoke_core.signals.node import Node

Coefficient = Annotated[float, fields.between(-1, 1)]
Celsius = Annotated[float, fields.between(-273.15, 2000)]


def _no_gauge(channel: MeasuredChannel, title: str) -> Lack | None:
    if channel.scaling.factor_of_gauge is not None:
        return None
    return Lack(f"{title} is for strain gauges, and {channel.name} is none.", "Leave it out.")


class TransverseSensitivity(ReadingStep):
    """What the strain across a single grid adds to its reading, taken off.

    Stress is taken to be along the grid alone, in a part of ``poisson_ratio``. A rosette's grids
    are corrected together by its recipe.
    """

    title: ClassVar = "Transverse sensitivity"
    stateful: ClassVar = False

    kind: Literal["transverse_sensitivity"] = "transverse_sensitivity"
    sensitivity: Annotated[float, fields.between(-0.1, 0.1)]
    poisson_ratio: fields.Poisson = 0.3

    def lacks(
        self, channel: MeasuredChannel, others: Sequence[MeasuredChannel], rate_hz: float
    ) -> Lack | None:
        return _no_gauge(channel, self.title)

    def line(self) -> "Line":
        from yoke_core.corrections.strain import transverse_factor
        from yoke_core.scaling.line import Line

        return Line(transverse_factor(self.sensitivity, -self.poisson_ratio))


class TemperatureStep(ReadingStep):
    """What needs the temperature of the gauge, by another channel."""

    temperature: fields.Key

    @property
    def channels(self) -> tuple[str, ...]:
        return (self.temperature,)

    def with_channels(self, keys: Mapping[str, str]) -> Self:
        return self.model_copy(update={"temperature": keys.get(self.temperature, self.temperature)})

    def lacks(
        self, channel: MeasuredChannel, others: Sequence[MeasuredChannel], rate_hz: float
    ) -> Lack | None:
        if lack := _no_gauge(channel, self.title):
            return lack
        thermometers = [c for c in others if c.quantity == "temperature"]
        if any(c.key == self.temperature for c in thermometers):
            return None
        names = ", ".join(c.name for c in thermometers)
        return Lack(
            f"{self.title} of {channel.name} names no temperature channel of this setup.",
            f"Choose one of {names}." if names else "Wire a thermometer at the gauge first.",
        )


class GaugeFactorSlope(TemperatureStep):
    """The gauge factor changes with temperature; the stated one holds at ``reference_c``.

    per_kelvin : change as a share of the gauge factor
    """

    title: ClassVar = "Gauge factor against temperature"

    kind: Literal["gauge_factor_slope"] = "gauge_factor_slope"
    per_kelvin: Annotated[float, fields.between(-0.01, 0.01)]
    reference_c: Celsius = 23.0

    def node(self, channel: MeasuredChannel, reading: "Node") -> "Node":
        from yoke_core.corrections.strain import gauge_factor_at_temperature
        from yoke_core.signals.graph import Measured

        temperature = Measured(self.temperature)
        reference = to_si(self.reference_c, "°C")
        return gauge_factor_at_temperature(reading, temperature, self.per_kelvin, reference)


class ThermalOutput(TemperatureStep):
    """What the temperature alone makes of a strain, taken off.

    coefficients : of the data sheet's polynomial, the constant first: m/m over °C, measured with
        a gauge factor of 2.0
    """

    title: ClassVar = "Thermal output"

    kind: Literal["thermal_output"] = "thermal_output"
    coefficients: Annotated[list[Coefficient], Field(min_length=1, max_length=6)]

    def node(self, channel: MeasuredChannel, reading: "Node") -> "Node":
        from yoke_core.corrections.strain import thermal_output
        from yoke_core.signals.graph import Measured

        factor = channel.scaling.factor_of_gauge
        assert factor is not None  # or else the step lacks something
        return thermal_output(reading, Measured(self.temperature), self.coefficients, factor)
