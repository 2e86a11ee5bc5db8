"""What a shunt check says of a channel."""

from yoke_server.calibrate.schemas import ShuntCheckOut
from yoke_server.kinds.steps.span import MAX_FACTOR, MIN_FACTOR
from yoke_server.setups.document import FrozenChannel

TOLERANCE = 0.01  # of the step due, by which the one read may be off
WORDS = f"{TOLERANCE * 100:g} %"


def shunt_check_of(channel: FrozenChannel) -> ShuntCheckOut | None:
    """The newest shunt check of a channel with its verdict; None where there is none."""
    expected, measured = channel.shunt_expected_mv_v, channel.shunt_measured_mv_v
    if not expected or measured is None:
        return None
    deviation, resistor = measured / expected - 1, channel.shunt_resistor
    passed = abs(deviation) <= TOLERANCE
    return ShuntCheckOut(
        deviation=deviation,
        passed=passed,
        verdict=f"within {WORDS}" if passed else f"off by more than {WORDS}",
        by=resistor.words if resistor else "the amplifier's own resistor across arm 2",
        corrects=why_not_correct(channel) == "",
    )


def why_not_correct(channel: FrozenChannel) -> str:
    """Why the span cannot be put right by its newest shunt check; empty if it can."""
    expected, measured = channel.shunt_expected_mv_v, channel.shunt_measured_mv_v
    resistor = channel.shunt_resistor
    if not expected or not measured or resistor is None:
        return f"{channel.name} has no shunt check."
    if not resistor.acts_as_signal(channel.wiring):
        return (
            f"Leads make something else of {resistor.words} than of the signal: the step of "
            f"{channel.name} verifies, and corrects nothing."
        )
    if not MIN_FACTOR <= expected / measured <= MAX_FACTOR:
        off = (measured / expected - 1) * 100
        return f"{channel.name} is off by {off:+.0f} %: something else is wrong."
    return ""
