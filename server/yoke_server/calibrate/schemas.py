from datetime import datetime
from typing import Annotated

from ninja import Schema
from pydantic import Field

from yoke_server.common.http import fields
from yoke_server.common.http.fields import Answer, Body, Id, unset
from yoke_server.kinds.channel_specs import ScalingSpec
from yoke_server.kinds.scalings.two_points import PointNumber
from yoke_server.kinds.shunts import ShuntResistor
from yoke_server.kinds.steps import StepList, StepSpec
from yoke_server.setups.document import PolarityName


class ScalingChange(Body):
    """How a channel turns its signal into its quantity (SI); what is left out stays."""

    scaling: ScalingSpec = unset()
    polarity: PolarityName = unset()
    steps: StepList = unset()


class ShuntCheckOut(Answer):
    """How far a shunt's step was off, as a share of the one due; ``corrects``: the span can be put
    right by it."""

    deviation: float
    passed: bool
    verdict: str
    by: str
    corrects: bool


class ScalingOfMany(ScalingChange):
    id: Id


class ManyScalings(Body):
    """Scalings of many channels that are one action."""

    channels: Annotated[list[ScalingOfMany], Field(min_length=1, max_length=512)]


class ChannelScalingOut(Answer):
    """What a channel's scaling does; ``per_signal`` is its slope near rest, quantity by signal in
    SI, 0 where ``scaling_problem`` says what is wrong. ``ends`` are the signals between which it
    counts; ``scaling_doubt`` names a figure that is out of character, and the likely one. By
    ``most_going`` its signal may go in half a second to be zeroed."""

    per_signal: float
    ends: list[float]
    scaling_problem: str
    scaling_doubt: str
    takes_zero: bool
    most_going: float
    shunt_check: ShuntCheckOut | None


class ChainIn(Body):
    """A channel's signal as it is now, SI, and the readings of the channels that its steps need.

    What is left out is not known.
    """

    signal: fields.Signal
    reading: fields.Quantity | None = None
    others: Annotated[dict[fields.Key, fields.Quantity], Field(max_length=16)] = {}


class ChainPartOut(Answer):
    """What a channel's reading is behind one part of its chain; None where it is not known.

    ``step`` is the place in the channel's list of a step that can be switched off; ``leads`` says
    that the part is what the scaling does about leads, which can be switched off too. ``value``
    is in SI, of the signal until it is scaled, ``in_quantity`` from there on.
    """

    title: str
    step: int | None
    leads: bool = False
    on: bool
    value: float | None
    in_quantity: bool


class FilterIn(Body):
    """A filter as it is being set."""

    step: StepSpec


class FilterOut(Answer):
    """What a filter does at the channel's rate.

    amplitudes : ratio by frequency in Hz; 0.707 is -3 dB
    step : what becomes of a step from 0 to 1 after so many seconds
    delay_s : by which a slow change is late; 0 of a filter that lets none pass
    warning : of what a reader should know; empty where there is nothing
    """

    rate_hz: float
    frequencies_hz: list[float]
    amplitudes: list[float]
    times_s: list[float]
    step: list[float]
    delay_s: float
    settles_s: float
    warning: str


class UncertaintyIn(Body):
    """A reading, and the deviation of its samples; SI."""

    reading: fields.Quantity
    deviation: Annotated[float, fields.between(0, 1e9)]


class ReadingIn(UncertaintyIn):
    channel: Id


class ReadingsIn(Body):
    """Readings of many channels at one instant."""

    readings: Annotated[list[ReadingIn], Field(min_length=1, max_length=512)]


class ExpandedOut(Answer):
    """U = k u of a channel's reading with k = 2, SI; ``complete`` if all that is known to count is
    in it."""

    channel: int
    expanded: float
    complete: bool


class UncertaintyTermOut(Answer):
    """A standard uncertainty of the reading, SI."""

    name: str
    standard: float
    distribution: str


class UncertaintyOut(Answer):
    """What a reading is uncertain by, SI: U = k u with 95.45 %.

    lacks : what is not known, and so not in it
    """

    expanded: float
    factor: float
    terms: list[UncertaintyTermOut]
    lacks: list[str]


class ZeroOut(Answer):
    """A zero as it was taken, SI of the signal; null where it was taken off."""

    at: datetime
    zero: float | None


class Chosen(Body):
    channels: Annotated[list[Id], Field(min_length=1, max_length=512)]


class CurveOut(Schema):
    """A scaling over what the signal may do, point by point, both in SI."""

    signals: list[float]
    readings: list[float]


class PointIn(Body):
    """A value (SI) that acts on the channel now, for one of the two points of its scaling."""

    point: PointNumber
    value: fields.Quantity


class BalanceIn(Chosen):
    """``on``: measure what bridges give at rest, and have the amplifier take it off; else it takes
    nothing off any more."""

    on: bool = True


class ExternalShuntIn(Chosen):
    """Channels that a person put a resistor on, and which."""

    resistor: ShuntResistor


class Outcome(Schema):
    """What became of one channel; an empty ``problem`` means done."""

    channel: int
    name: str
    problem: str
