"""When a signal at rest counts as settled: one rule for measuring it and for taking it."""

import math

from yoke_server.common.units import last_digit
from yoke_server.kinds.chain import per_signal
from yoke_server.kinds.measured import MeasuredChannel

GOING = 0.1  # of what a signal's noise may be, by which its means may go in half a second


def most_noise(channel: MeasuredChannel) -> float:
    """How far the samples of a signal (SI) may spread at rest: a hundredth of the input's span.

    Where the signal itself has no span, a hundred of the last digit usually shown.
    """
    if (steady := channel.wiring.steady(channel.conditioning)) is not None:
        return steady
    slope = abs(per_signal(channel))
    return 100 * last_digit(channel.quantity) / slope if slope else math.inf


def most_going(channel: MeasuredChannel) -> float:
    """How far the means of a signal's parts (SI) may lie apart while it is measured at rest."""
    return GOING * most_noise(channel)
