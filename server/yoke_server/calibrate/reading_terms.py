"""What the readings of a channel are uncertain by, as far as its channel and sensor tell (GUM)."""

from dataclasses import dataclass
from datetime import date
from typing import TYPE_CHECKING

from yoke_server.kinds.chain import per_signal
from yoke_server.sensors.models import Sensor
from yoke_server.setups.document import FrozenChannel

if TYPE_CHECKING:
    from yoke_core.uncertainty.budget import Component


@dataclass(frozen=True, slots=True)
class ReadingTerm:
    """Limits or a standard uncertainty that all readings of a channel share.

    gain : relative standard uncertainty of its slope; offset : standard uncertainty of its zero
        (SI). One of the two is 0.
    source : terms of one source move together
    """

    name: str
    gain: float = 0.0
    offset: float = 0.0
    rectangular: bool = False
    source: str = ""

    def at(self, reading: float) -> "Component":
        """Of one reading (SI)."""
        from yoke_core.uncertainty.budget import Component, Distribution

        shape = Distribution.RECTANGULAR if self.rectangular else Distribution.NORMAL
        standard = self.gain * abs(reading) + self.offset
        return Component(self.name, standard, distribution=shape, source=self.source)


def terms_of(
    channel: FrozenChannel, sensor: Sensor, first_zero: float | None, day: date
) -> tuple[list[ReadingTerm], list[str]]:
    """The terms of a channel on a day, and in words what is not known and so not among them.

    first_zero : of that day (SI of the signal); None where there was none
    """
    terms, lacks = _of_sensor(sensor, day)
    if channel.zero is None:
        lacks.append(f"{channel.name} is not zeroed.")
    elif drift := _drift(channel, first_zero):
        terms.append(drift)
    return terms, lacks


def _of_sensor(sensor: Sensor, day: date) -> tuple[list[ReadingTerm], list[str]]:
    """What its certificate of that day states, or else its data sheet."""
    held = [c for c in sensor.certificates.all() if c.calibrated_on <= day]  # the newest is last
    newest = held[-1] if held else None
    which = f"{sensor.name} {sensor.serial}"
    if newest is None:
        return _of_data_sheet(sensor, which)
    if newest.expanded is None:
        return [], [f"Certificate {newest.number} states no uncertainty."]
    name = f"certificate {newest.number}"
    overdue = newest.due_on is not None and newest.due_on < day
    lacks = [f"Certificate {newest.number} is overdue."] if overdue else []
    return [ReadingTerm(name, gain=newest.expanded / 2, source=name)], lacks


def _of_data_sheet(sensor: Sensor, which: str) -> tuple[list[ReadingTerm], list[str]]:
    from yoke_core.uncertainty.budget import DIVISORS, Distribution

    tolerance = sensor.spec.gain_tolerance
    if tolerance is None:
        return [], [f"{which} has no certificate."]
    name = f"gauge factor of {sensor.serial}"
    gain = tolerance / DIVISORS[Distribution.RECTANGULAR]
    return [ReadingTerm(name, gain=gain, rectangular=True, source=name)], []


def _drift(channel: FrozenChannel, first: float | None) -> ReadingTerm | None:
    """The zero may drift once more by as much as it did since the first of the day."""
    from yoke_core.uncertainty.budget import DIVISORS, Distribution

    if first is None or channel.zero is None or first == channel.zero:
        return None
    limit = abs((channel.zero - first) * per_signal(channel))
    offset = limit / DIVISORS[Distribution.RECTANGULAR]
    return ReadingTerm(f"drift of the zero of {channel.name}", offset=offset, rectangular=True)
