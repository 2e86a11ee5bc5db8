"""Numbers and facts as a report prints them."""

from collections.abc import Iterable
from datetime import date, datetime

from yoke_server.common.units import SIGNAL_UNITS, factor, from_si, span_from_si
from yoke_server.derive.models import Result
from yoke_server.kinds.chain import per_signal
from yoke_server.record.readings.definitions import RunReadings
from yoke_server.setups.document import FrozenChannel, FrozenSetup
from yoke_server.setups.readable import ReadableChannel

Row = tuple[str, str, str, str]
NEGLIGIBLE = 0.01  # of the last digit of a figure
LARGE = 1e7  # from here on a figure is written as a power of ten


def result_rows(values: Iterable[Result]) -> list[Row]:
    """(name and definition, value, uncertainty, unit) of each result; a dash where there is
    none."""
    return [
        (
            f"{v.symbol}, {v.name[:1].lower()}{v.name[1:]}, {v.method}",
            _figure(v),
            uncertainty_words(v),
            _unit(v),
        )
        for v in values
    ]


def uncertainty_words(v: Result) -> str:
    """U of a result in its unit; empty where it is not known, 0 far below its last digit."""
    if v.expanded is None:
        return ""
    spread = span_from_si(v.expanded, v.unit)
    return f"± {spread:.2g}" if spread >= NEGLIGIBLE * 10**-v.decimals else "± 0"


def coverage_words(values: Iterable[Result]) -> str:
    """The factors k of results' uncertainties; empty where none is known."""
    factors = sorted({f"{v.factor:.2f}" for v in values if v.factor is not None})
    return f"k = {' to '.join(dict.fromkeys((factors[0], factors[-1])))}" if factors else ""


def _unit(v: Result) -> str:
    return "" if v.unit == "1" else v.unit


def _figure(v: Result) -> str:
    if v.value is None:
        return "–"
    value = from_si(v.value, v.unit)
    readable = value == 0 or 0.5 * 10**-v.decimals <= abs(value) < LARGE
    if readable:
        return f"{value:.{v.decimals}f}"
    digits, _, power = f"{value:.3e}".partition("e")
    return f"{digits} · 10^{int(power)}"


def _due(c: FrozenChannel, day: date) -> str:
    """Until when its certificate holds; said where it held no more on the day."""
    if c.due_on is None:
        return "no certificate"
    return f"{c.due_on}, overdue" if c.due_on < day else str(c.due_on)


def channel_rows(setup: FrozenSetup, day: date) -> list[dict[str, str]]:
    """The channels of a run of a day, as rows of a table."""
    return [_channel(c, day) for c in setup.channels]


def _channel(c: FrozenChannel, day: date) -> dict[str, str]:
    shunt = "–"
    if c.shunt_measured_mv_v is not None and c.shunt_expected_mv_v:
        error = (c.shunt_measured_mv_v / c.shunt_expected_mv_v - 1) * 100
        shunt = f"{c.shunt_expected_mv_v:.4f} / {c.shunt_measured_mv_v:.4f} ({error:+.2f} %)"
    unit = SIGNAL_UNITS[c.signal]
    return {
        "name": c.name,
        "input": f"{c.device_label}.{c.input_number}",
        "sensor": f"{c.sensor_name}, {c.sensor_serial}".replace("Ω", "ohm"),
        "scaling": scaling_words(c),
        "zero": f"{from_si(c.zero, unit):+.4f} {unit}" if c.zero is not None else "not zeroed",
        "shunt": shunt,
        "due": _due(c, day),
    }


def computed_of(readings: RunReadings) -> list[ReadableChannel]:
    """The computed channels of a run that can be read."""
    return [c for c in readings.channels if c.measured is None]


def steps_of(c: FrozenChannel) -> str:
    """The steps of a channel's reading that are on, in words."""
    return ", ".join(step.title.lower() for step in c.steps if step.on)


def scaling_words(c: FrozenChannel) -> str:
    """What one unit of its signal is worth, near rest."""
    signal = SIGNAL_UNITS[c.signal]
    slope = per_signal(c) * factor(signal) / factor(c.unit)
    return f"{slope:.4g} {c.unit} per {signal}".replace("Ω", "ohm")


def moment(value: datetime | None) -> str:
    return f"{value:%Y-%m-%d %H:%M:%S} UTC" if value else "–"
