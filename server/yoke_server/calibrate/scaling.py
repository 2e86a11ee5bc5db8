"""A channel's signal chain: one place for zero, sign, scaling and tare."""

import math
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from yoke_core.errors import ScalingError

from yoke_server.common.units import FROM_ABSOLUTE_ZERO
from yoke_server.wire.document import FrozenChannel
from yoke_server.wire.specs.wiring import SIGNAL_OF

if TYPE_CHECKING:
    from yoke_core.chain import SignalChain, Step


def _gauge(scaling: Any, wiring: Any) -> "list[Step]":
    from yoke_core.bridge.circuit import BridgeStrain

    poisson = scaling.poisson_ratio
    return [BridgeStrain(scaling.gauge_factor, wiring.circuit, poisson, wiring.resting)]


def _rated_output(scaling: Any, wiring: Any) -> "list[Step]":
    from yoke_core.scaling.line import rated_output

    return [rated_output(scaling.rated_output, scaling.capacity)]


def _two_points(scaling: Any, wiring: Any) -> "list[Step]":
    from yoke_core.scaling.line import two_points

    return [two_points(scaling.signal_1, scaling.value_1, scaling.signal_2, scaling.value_2)]


def _table(scaling: Any, wiring: Any) -> "list[Step]":
    from yoke_core.scaling.curve import Table

    signals, values = (tuple(getattr(p, f) for p in scaling.points) for f in ("signal", "value"))
    return [Table(signals, values)]


def _polynomial(scaling: Any, wiring: Any) -> "list[Step]":
    from yoke_core.scaling.curve import Polynomial

    return [Polynomial(tuple(scaling.coefficients), scaling.lowest, scaling.highest)]


def _loop_span(scaling: Any, wiring: Any) -> "list[Step]":
    from yoke_core.scaling.loop import loop_span

    return [loop_span(scaling.at_4_ma, scaling.at_20_ma)]


def _platinum(scaling: Any, wiring: Any) -> "list[Step]":
    from yoke_core.scaling.platinum import PlatinumThermometer

    return [PlatinumThermometer(scaling.nominal_ohm)]


def _pulse_rate(scaling: Any, wiring: Any) -> "list[Step]":
    from yoke_core.scaling.line import Line

    return [Line(2 * math.pi / scaling.pulses_per_turn, 0.0)]


def _as_read(scaling: Any, wiring: Any) -> "list[Step]":
    from yoke_core.scaling.line import Line

    return [Line(scaling.factor, scaling.offset)]


STEPS: "dict[str, Callable[[Any, Any], list[Step]]]" = {
    "gauge": _gauge,
    "rated_output": _rated_output,
    "two_points": _two_points,
    "table": _table,
    "polynomial": _polynomial,
    "loop_span": _loop_span,
    "platinum": _platinum,
    "pulse_rate": _pulse_rate,
    "as_read": _as_read,
}


def chain_of(channel: FrozenChannel) -> "SignalChain":
    """From raw samples (SI of the input's signal) to the quantity in SI.

    Raises `ScalingError` naming the field at fault.
    """
    from yoke_core.chain import SignalChain
    from yoke_core.scaling.line import Line
    from yoke_core.scaling.loop import LoopCurrent

    if SIGNAL_OF[channel.wiring.kind] != channel.signal:
        raise ScalingError(
            "wiring",
            f"Input {channel.device_label}.{channel.input_number} gives a {channel.signal}, "
            f"and {channel.name} is wired as a {channel.wiring.kind}.",
            "Put its sensor on an input of the right kind.",
        )
    scaling = STEPS[channel.scaling.kind](channel.scaling, channel.wiring)
    if channel.wiring.kind == "loop":
        scaling = [LoopCurrent(channel.wiring.resistor_ohm), *scaling]
    steps: list[Step] = []
    if channel.wiring.kind == "bridge":
        steps = [Line(1.0, -channel.zero)] if channel.zero else []
        steps += [Line(-1.0), *scaling] if channel.polarity == "cores swapped" else scaling
        steps += [Line(-1.0)] if channel.polarity == "turned" else []
    else:  # no signal stands for nothing there: what rest reads is taken off instead
        steps += scaling
        if channel.zero is not None and is_relative(channel):
            steps.append(Line(1.0, -float(SignalChain(tuple(scaling)).apply(channel.zero))))
        if channel.polarity != "as wired":
            steps.append(Line(-1.0))
    if channel.tare and is_relative(channel):
        steps.append(Line(1.0, -channel.tare))
    return SignalChain(tuple(steps))


# A small step of each signal, SI, over which a scaling's slope is taken.
SMALL = {"bridge ratio": 1e-6, "voltage": 1e-4, "resistance": 0.1, "frequency": 1.0, "value": 1.0}


def per_signal(channel: FrozenChannel) -> float:
    """Quantity per unit of signal near rest, with its sign, for display."""
    at, step = resting_signal(channel), SMALL[channel.signal]
    low, high = chain_of(channel).apply([at, at + step])
    return float(high - low) / step


def resting_signal(channel: FrozenChannel) -> float:
    """About where a channel's signal lies at rest, SI."""
    if channel.wiring.kind == "loop":
        return 12e-3 * channel.wiring.resistor_ohm
    if channel.scaling.kind == "platinum":
        return channel.scaling.nominal_ohm
    return channel.zero or 0.0


def takes_zero(channel: FrozenChannel) -> bool:
    """Whether a channel is to be zeroed at rest: a temperature has no zero, pulses need none."""
    return is_relative(channel) and channel.scaling.kind != "pulse_rate"


def is_relative(channel: FrozenChannel) -> bool:
    """Whether what a channel reads at rest may be taken off: of a temperature it may not."""
    return channel.quantity not in FROM_ABSOLUTE_ZERO
