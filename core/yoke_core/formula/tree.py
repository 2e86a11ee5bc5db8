"""The parts of a formula, as they are written."""

from dataclasses import dataclass

from yoke_core.formula.errors import Place
from yoke_core.formula.names import Channel, NamedRosette, Unit


@dataclass(frozen=True, slots=True)
class Number:
    """A number with its unit, if it has one."""

    value: float
    unit: Unit | None
    text: str
    place: Place


@dataclass(frozen=True, slots=True)
class ChannelPart:
    channel: Channel
    place: Place


@dataclass(frozen=True, slots=True)
class RosettePart:
    rosette: NamedRosette
    place: Place


@dataclass(frozen=True, slots=True)
class Option:
    """A word and what follows it: ``last 2 s``, ``order 4``, ``bessel``."""

    word: str
    value: Number | None
    place: Place


@dataclass(frozen=True, slots=True)
class Call:
    """A function of signals, with options."""

    function: str
    arguments: tuple["Part", ...]
    options: tuple[Option, ...]
    place: Place
    name_place: Place


@dataclass(frozen=True, slots=True)
class Operation:
    """An operation by the name that it has among the pointwise nodes."""

    operation: str
    parts: tuple["Part", ...]
    place: Place


Part = Number | ChannelPart | RosettePart | Call | Operation
