"""How a signal becomes a quantity. Signals in SI: V/V of bridges, V, A of loops, ohm."""

from typing import Annotated, Literal

from pydantic import Field

from yoke_server.common import fields
from yoke_server.wire.specs.base import Part, Spec

Number = Annotated[float, fields.between(-1e12, 1e12)]


class GaugeScaling(Spec):
    """Strain gauges; Poisson's ratio of the part counts where grids lie across."""

    kind: Literal["gauge"] = "gauge"
    gauge_factor: fields.GaugeFactor
    poisson_ratio: fields.Poisson = 0.3


class RatedOutputScaling(Spec):
    """A certificate's output at capacity; of either sign."""

    kind: Literal["rated_output"] = "rated_output"
    rated_output: fields.RatedOutput
    capacity: fields.Capacity


class TwoPointScaling(Spec):
    """The line through two points."""

    kind: Literal["two_points"] = "two_points"
    signal_1: fields.Signal
    value_1: fields.Quantity
    signal_2: fields.Signal
    value_2: fields.Quantity


class TablePoint(Part):
    signal: fields.Signal
    value: fields.Quantity


class TableScaling(Spec):
    """Straight lines between points of rising signal."""

    kind: Literal["table"] = "table"
    points: Annotated[list[TablePoint], Field(min_length=2, max_length=200)]


class PolynomialScaling(Spec):
    """Coefficients from the constant upwards, valid from one signal to another."""

    kind: Literal["polynomial"] = "polynomial"
    coefficients: Annotated[list[Number], Field(min_length=2, max_length=10)]
    lowest: fields.Signal
    highest: fields.Signal


class LoopSpanScaling(Spec):
    """What a transmitter means by 4 and by 20 mA."""

    kind: Literal["loop_span"] = "loop_span"
    at_4_ma: fields.Quantity
    at_20_ma: fields.Quantity


class PlatinumScaling(Spec):
    """A platinum thermometer by IEC 60751, with its resistance at 0 degC."""

    kind: Literal["platinum"] = "platinum"
    nominal_ohm: fields.Resistance = 100.0


class PulseRateScaling(Spec):
    """A speed of rotation by so many pulses a turn."""

    kind: Literal["pulse_rate"] = "pulse_rate"
    pulses_per_turn: Annotated[int, Field(ge=1, le=100_000)]


class AsReadScaling(Spec):
    """Numbers that are the quantity already, in some unit: SI = number * factor + offset."""

    kind: Literal["as_read"] = "as_read"
    factor: Annotated[float, fields.between(1e-12, 1e12)] = 1.0
    offset: Number = 0.0


ScalingSpec = Annotated[
    GaugeScaling | RatedOutputScaling | TwoPointScaling | TableScaling | PolynomialScaling
    | LoopSpanScaling | PlatinumScaling | PulseRateScaling | AsReadScaling,
    Field(discriminator="kind"),
]  # fmt: skip
# Which scalings make sense of a wiring; of a bridge of gauges and of a transducer they differ.
SCALINGS_OF = {
    "bridge": ("gauge", "rated_output", "two_points", "table", "polynomial"),
    "potentiometer": ("two_points", "table", "polynomial"),
    "inductive_half": ("rated_output", "two_points", "table", "polynomial"),
    "pulses": ("pulse_rate", "two_points", "table", "polynomial"),
    "loop": ("loop_span", "two_points", "table", "polynomial"),
    "voltage": ("two_points", "table", "polynomial"),
    "thermometer": ("platinum", "two_points", "table", "polynomial"),
    "digital": ("as_read", "two_points", "table", "polynomial"),
}
