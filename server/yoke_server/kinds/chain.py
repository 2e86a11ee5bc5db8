"""A channel's signal chain: one place for zero, sign, scaling and tare."""

from collections.abc import Sequence
from typing import TYPE_CHECKING, NamedTuple

from yoke_core.errors import ScalingError

from yoke_server.common.units import FROM_ABSOLUTE_ZERO
from yoke_server.kinds.measured import MeasuredChannel
from yoke_server.kinds.steps import STEPS

if TYPE_CHECKING:
    from yoke_core.signals.chain import SignalChain, Step
    from yoke_core.signals.node import Node

    from yoke_server.kinds.steps.base import ReadingStep


def chain_of(channel: MeasuredChannel) -> "SignalChain":
    """From raw samples (SI of the input's signal) to the quantity in SI, as far as that needs
    neither earlier samples nor other channels (see `stateful_steps`).

    Raises `ScalingError` naming the field at fault.
    """
    from yoke_core.signals.chain import SignalChain

    return SignalChain(tuple(step for part in chain_parts(channel) for step in part.steps))


class ChainPart(NamedTuple):
    """A part of a channel's chain as people speak of it; ``in_quantity``: what it gives is in the
    channel's quantity, no longer a signal."""

    title: str
    in_quantity: bool
    steps: "Sequence[Step]"

    def apply(self, value: float) -> float:
        """What it makes of one value."""
        for step in self.steps:
            value = float(step.apply(value))
        return value


def chain_parts(channel: MeasuredChannel) -> list[ChainPart]:
    """The chain in order, without what a channel has not; raises `ScalingError`."""
    wiring = channel.wiring
    if wiring.signal != channel.signal:
        raise ScalingError(
            "wiring",
            f"Input {channel.device_label}.{channel.input_number} gives a {channel.signal}, "
            f"and {channel.name} is wired as a {wiring.kind}.",
            "Put its sensor on an input of the right kind.",
        )
    scaling = [*wiring.signal_steps(), *channel.scaling.steps(wiring)]
    zeroed = _zero_of_signal if wiring.zeroes_signal else _zero_of_reading
    lines = [
        ChainPart(step.title, True, [step.line()])
        for step in channel.steps
        if step.on and not step.stateful
    ]
    parts = [*zeroed(channel, scaling), *lines, ChainPart("Tare", True, _tare(channel))]
    return [part for part in parts if part.steps]


def stateful_steps(channel: MeasuredChannel) -> "list[ReadingStep]":
    """The steps behind a channel's chain, in the order in which they work."""
    on = [step for step in channel.steps if step.on and step.stateful]
    return sorted(on, key=lambda step: STEPS.index(type(step)))


def stepped_node(channel: MeasuredChannel) -> "Node | None":
    """A channel's reading behind its stateful steps, as a signal of `Measured` readings; None
    where it has no such step.

    Of the channel itself the reading is what its chain gives.
    """
    if not (steps := stateful_steps(channel)):
        return None
    from yoke_core.signals.graph import Measured

    found: Node = Measured(channel.key)
    for step in steps:
        found = step.node(channel, found)
    return found


def _zero_of_signal(channel: MeasuredChannel, scaling: "list[Step]") -> list[ChainPart]:
    """The zero is taken off the signal; swapped cores turn the signal."""
    from yoke_core.scaling.line import Line

    zero = [Line(1.0, -channel.zero)] if channel.zero else []
    swapped = [Line(-1.0)] if channel.polarity == "cores swapped" else []
    turned = [Line(-1.0)] if channel.polarity == "turned" else []
    return [
        ChainPart("Zero", False, zero),
        ChainPart("Sign", False, swapped),
        ChainPart("Scaling", True, scaling),
        ChainPart("Sign", True, turned),
    ]


def _zero_of_reading(channel: MeasuredChannel, scaling: "list[Step]") -> list[ChainPart]:
    """Zeroing the reading: no signal means zero there, so the reading at rest is subtracted."""
    from yoke_core.scaling.line import Line
    from yoke_core.signals.chain import SignalChain

    zero: list[Step] = []
    if channel.zero is not None and is_relative(channel):
        zero = [Line(1.0, -float(SignalChain(tuple(scaling)).apply(channel.zero)))]
    turned: list[Step] = [Line(-1.0)] if channel.polarity != "as wired" else []
    return [
        ChainPart("Scaling", True, scaling),
        ChainPart("Zero", True, zero),
        ChainPart("Sign", True, turned),
    ]


def _tare(channel: MeasuredChannel) -> "list[Step]":
    from yoke_core.scaling.line import Line

    return [Line(1.0, -channel.tare)] if channel.tare and is_relative(channel) else []


# A small step of each signal, SI, over which a scaling's slope is taken.
SMALL = {"bridge ratio": 1e-6, "voltage": 1e-4, "resistance": 0.1, "frequency": 1.0, "value": 1.0}


def per_signal(channel: MeasuredChannel) -> float:
    """Quantity per unit of signal near rest, with its sign, for display."""
    at, step = channel.wiring.rest_signal(channel), SMALL[channel.signal]
    low, high = chain_of(channel).apply([at, at + step])
    return float(high - low) / step


def takes_zero(channel: MeasuredChannel) -> bool:
    """Whether a channel is to be zeroed at rest: a temperature has no zero, pulses need none."""
    return is_relative(channel) and channel.scaling.takes_zero


def is_relative(channel: MeasuredChannel) -> bool:
    """Whether what a channel reads at rest may be taken off: of a temperature it may not."""
    return channel.quantity not in FROM_ABSOLUTE_ZERO
