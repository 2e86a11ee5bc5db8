"""Statistics of one channel over a stretch of a run."""

from math import inf
from typing import TYPE_CHECKING, Any, ClassVar

from yoke_server.common.units import difference_unit
from yoke_server.derive.inputs import channel_of, clipped_note, setup_of, times_with
from yoke_server.derive.kinds.base import Column, Columns, Computed, Value
from yoke_server.derive.kinds.of_channel import ChannelResult
from yoke_server.derive.kinds.statistics.spec import (
    Figure,
    FigureLimit,
    StatisticsDetails,
    StatisticsParameters,
)
from yoke_server.derive.stretch import within
from yoke_server.kinds.spec import Spec
from yoke_server.record.models import Run
from yoke_server.setups.readable import ReadableChannel

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray
    from yoke_core.summary.stretch import Statistics

SHOWN = 1000  # columns of the figure, each with its lowest and its highest


class StatisticsKind(ChannelResult):
    """Extremes, mean, deviation, area, slope and time above a level."""

    engine: ClassVar[int] = 1
    noun: ClassVar = "Statistics"
    parameters: ClassVar[type[Spec]] = StatisticsParameters
    details: ClassVar[type[Spec]] = StatisticsDetails

    def compute(self, run: Run, parameters: Any) -> Computed:
        setup = setup_of(run)
        self.check(parameters, setup)
        channel = channel_of(setup, parameters.channel)
        found, shown = _statistics(run, parameters)
        outside = [w for limit in parameters.limits if (w := _beyond(limit, found, channel))]
        details = StatisticsDetails(
            channel=channel.name,
            unit=channel.unit,
            from_s=float(shown[0][0]),
            to_s=float(shown[0][-1]),
            outside=outside,
        )
        note = clipped_note(channel, found.left_out, found.left_out + found.count)
        names = ("time", "lowest", "highest")
        columns = [Column(n, channel.unit, x) for n, x in zip(names, shown, strict=True)]
        values = _values(found, channel, parameters)
        return Computed(values, details, columns, [*outside, *([note] if note else [])])

    def figure(self, columns: Columns, details: Any, parameters: Any) -> str:
        from yoke_server.derive.kinds.statistics.figure import figure

        return figure(columns, details, parameters)


def _statistics(
    run: Run, parameters: StatisticsParameters
) -> "tuple[Statistics, NDArray[np.float32]]":
    """What the stretch comes to; (time, lowest, highest) of the parts that are shown."""
    import numpy as np
    from yoke_core.summary.stretch import StretchStatistics

    times = times_with(run, parameters.channel)
    step = 1 / times.segments[0].rate_hz
    found = StretchStatistics(step, parameters.above)
    width = max(1, -(-times.samples // SHOWN))
    parts = []
    for seconds, values in within(run, parameters.channel, parameters.stretch):
        found.push(seconds, values)
        for at in range(0, len(values), width):
            part = np.where(np.isfinite(v := values[at : at + width]), v, np.nan)
            known = part[~np.isnan(part)]
            if len(known):
                parts.append((seconds[at], known.min(), known.max()))
    return found.finish(), np.array(parts, dtype=np.float32).reshape(-1, 3).T


NAMES: dict[Figure, tuple[str, str]] = {
    "lowest": ("min", "Lowest"),
    "highest": ("max", "Highest"),
    "mean": ("mean", "Mean"),
    "rms": ("RMS", "Root mean square"),
    "deviation": ("s", "Deviation"),
    "peak_to_peak": ("pp", "Peak to peak"),
    "slope": ("slope", "Slope"),
}


SPANS = frozenset({"deviation", "peak_to_peak", "rms"})


def _beyond(limit: FigureLimit, found: "Statistics", channel: ReadableChannel) -> str:
    """What lies outside, in words; empty where it is inside."""
    value = getattr(found, limit.figure)
    low = -inf if limit.lowest is None else limit.lowest
    high = inf if limit.highest is None else limit.highest
    if value is None or low <= value <= high:
        return ""
    end, way = (low, "below") if value < low else (high, "above")
    name = NAMES[limit.figure][1]
    return f"{name} of {channel.name} lies {way} {channel.shown(end):.4g} {channel.unit}."


def _values(
    found: "Statistics", channel: ReadableChannel, parameters: StatisticsParameters
) -> list[Value]:
    unit, decimals = channel.unit, channel.decimals
    of_span = difference_unit(unit, channel.quantity)
    over = f"of {found.count} samples"
    limits = {limit.figure: limit for limit in parameters.limits}
    values = [
        Value(
            symbol, name, getattr(found, figure),
            of_span if figure in SPANS else unit, decimals, over,
            note=_beyond(limits[figure], found, channel) if figure in limits else "",
        )
        for figure, (symbol, name) in NAMES.items()
        if figure != "slope"
    ]  # fmt: skip
    of_time = [
        Value("t", "Time", found.seconds, "s", 3, "samples that follow each other"),
        Value("t>", "Time above the level", found.above, "s", 3, "straight between samples",
              note="" if found.above is not None else "give a level"),
    ]  # fmt: skip
    return [*values, *of_time]
