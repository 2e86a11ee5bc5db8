"""A channel's signal chain: one place for zero, sign, scaling and tare."""

from typing import TYPE_CHECKING

from yoke_core.errors import ScalingError

from yoke_server.common.units import FROM_ABSOLUTE_ZERO
from yoke_server.kinds.measured import MeasuredChannel

if TYPE_CHECKING:
    from yoke_core.signals.chain import SignalChain, Step


def chain_of(channel: MeasuredChannel) -> "SignalChain":
    """From raw samples (SI of the input's signal) to the quantity in SI.

    Raises `ScalingError` naming the field at fault.
    """
    from yoke_core.signals.chain import SignalChain

    wiring = channel.wiring
    if wiring.signal != channel.signal:
        raise ScalingError(
            "wiring",
            f"Input {channel.device_label}.{channel.input_number} gives a {channel.signal}, "
            f"and {channel.name} is wired as a {wiring.kind}.",
            "Put its sensor on an input of the right kind.",
        )
    steps = [*wiring.signal_steps(), *channel.scaling.steps(wiring)]
    steps = (
        _zero_of_signal(channel, steps)
        if wiring.zeroes_signal
        else _zero_of_reading(channel, steps)
    )
    return SignalChain((*steps, *_tare(channel)))


def _zero_of_signal(channel: MeasuredChannel, scaling: "list[Step]") -> "list[Step]":
    """The zero is taken off the signal; swapped cores turn the signal."""
    from yoke_core.scaling.line import Line

    zero = [Line(1.0, -channel.zero)] if channel.zero else []
    swapped = [Line(-1.0)] if channel.polarity == "cores swapped" else []
    turned = [Line(-1.0)] if channel.polarity == "turned" else []
    return [*zero, *swapped, *scaling, *turned]


def _zero_of_reading(channel: MeasuredChannel, scaling: "list[Step]") -> "list[Step]":
    """Zeroing the reading: no signal means zero there, so the reading at rest is subtracted."""
    from yoke_core.scaling.line import Line
    from yoke_core.signals.chain import SignalChain

    steps = list(scaling)
    if channel.zero is not None and is_relative(channel):
        steps.append(Line(1.0, -float(SignalChain(tuple(scaling)).apply(channel.zero))))
    if channel.polarity != "as wired":
        steps.append(Line(-1.0))
    return steps


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
