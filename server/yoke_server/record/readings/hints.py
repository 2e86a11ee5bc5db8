"""Hints on a run's channels: what looks wrong, why, and the correction that would put it right."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import TYPE_CHECKING

from yoke_server.common.units import factor, from_si
from yoke_server.kinds.corrections.base import RunCorrection
from yoke_server.kinds.corrections.samples import Scale, TimeBase
from yoke_server.kinds.corrections.settings import StepsCorrection
from yoke_server.kinds.steps.gauge import ThermalOutput
from yoke_server.record.channel_of_run import channel_of_run
from yoke_server.record.models import Run, RunState
from yoke_server.record.plot_data import view
from yoke_server.record.readings.definitions import RunReadings, readings_of
from yoke_server.record.streams import streams_of_runs
from yoke_server.setups.readable import ReadableChannel

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

    Array = NDArray[np.float64]

COLUMNS = 256
MIN_DRIFT = 5e-6  # m/m
SLIPS = {1e6: "micro", 1e3: "milli", 1e2: "percent", 1e-2: "hundreds", 1e-3: "kilo", 1e-6: "mega"}


@dataclass(frozen=True, slots=True)
class Hint:
    """Something that looks wrong. ``correction`` is None where no arithmetic puts it right."""

    channel: str
    text: str
    reason: str
    action: str = ""
    correction: RunCorrection | None = None


@dataclass(frozen=True, slots=True)
class _Look:
    """Lowest and highest of a channel in SI, in columns over the run's time."""

    channel: ReadableChannel
    low: "Array"
    high: "Array"
    times: "Array"

    @property
    def peak(self) -> float:
        """The largest value, without its sign; 0 where none is known."""
        import numpy as np

        both = np.abs(np.concatenate([self.low, self.high]))
        known = both[np.isfinite(both)]
        return float(known.max()) if len(known) else 0.0

    @property
    def middle(self) -> "Array":
        import numpy as np

        return np.asarray(0.5 * (self.low + self.high))


def hints_of(run: Run) -> list[Hint]:
    """Hints on the channels of a closed run; the cost does not grow with its length."""
    readings = readings_of(run)
    looks = [look for c in readings.channels if (look := _look(run, c))]
    other = _newest_other(run)
    corrected = {key for c in readings.corrections for key in c.channels}
    found = [*_of_time(readings, other)]
    for look in looks:
        if look.channel.key not in corrected:
            found += _of_values(look)
            found += _of_magnitude(look, other)
            found += _of_temperature(readings, look, looks)
    return found


def _look(run: Run, channel: ReadableChannel) -> _Look | None:
    import numpy as np

    found = channel_of_run(run.pk, channel.key)
    if found is None or not found.times.segments:
        return None
    parts = view(found, 0.0, found.times.segments[-1].end_s, COLUMNS)
    if not parts:
        return None
    low, high = found.chain.extremes(
        np.concatenate([p.low for p in parts]), np.concatenate([p.high for p in parts])
    )
    times = [p.start_s + p.step_s * (np.arange(len(p.low)) + 0.5) for p in parts]
    return _Look(channel, low, high, np.concatenate(times))


def _newest_other(run: Run) -> Run | None:
    """Another kept run of the setup that was measured, to compare with."""
    runs = Run.objects.filter(setup=run.setup_id, state=RunState.KEPT, document__isnull=True)
    return runs.exclude(pk=run.pk).select_related("revision", "setup").order_by("-number").first()


def _of_values(look: _Look) -> Iterator[Hint]:
    import numpy as np

    name, key = look.channel.name, look.channel.key
    if np.isinf(look.low).any() or np.isinf(look.high).any():
        reason = "Samples at the converter's rail have no value."
        yield Hint(key, f"{name} clipped", reason)
    known = np.isfinite(look.low) & np.isfinite(look.high)
    if known.sum() > 2 and np.ptp(np.concatenate([look.low[known], look.high[known]])) == 0:
        reason = "It is the very same value throughout: look at its cable and its input."
        yield Hint(key, f"{name} is flat", reason)


def _of_magnitude(look: _Look, other: Run | None) -> Iterator[Hint]:
    from yoke_core.corrections.hints import slip_of_angle, slip_of_ratio, slip_of_strain

    channel, peak = look.channel, look.peak
    by_quantity: dict[str, Callable[[float], float | None]] = {
        "strain": slip_of_strain,
        "angle": slip_of_angle,
    }
    of_quantity = by_quantity.get(channel.quantity)
    slip = of_quantity(peak) if of_quantity else None
    reason = f"Its largest value is {channel.shown(peak):.4g} {channel.unit}."
    if slip is None and other and (theirs := _look_at(other, channel.key)) and theirs.peak:
        slip = slip_of_ratio(peak / theirs.peak)
        reason = f"{other.name} reached {channel.shown(theirs.peak):.4g} {channel.unit}. " + reason
    if slip is not None:
        words = SLIPS.get(slip, "degrees")
        correction = Scale(channels=[channel.key], factor=1 / slip)
        text = f"{channel.name} looks like {words} values"
        yield Hint(channel.key, text, reason, f"Multiply by {1 / slip:.4g}", correction)


def _look_at(run: Run, key: str) -> _Look | None:
    channel = readings_of(run).channel(key)
    return _look(run, channel) if channel else None


def _of_time(readings: RunReadings, other: Run | None) -> Iterator[Hint]:
    """A run that is a thousand times as long as another one, or as short."""
    from yoke_core.corrections.hints import slip_of_ratio

    run = readings.run
    stretched = any(c.time_factor != 1 for c in readings.corrections)
    if other is None or run.document is None or stretched:
        return
    ends = {
        pk: max((s.end_s for s in streams), default=0.0)
        for pk, streams in streams_of_runs([run.pk, other.pk]).items()
    }
    if not ends[other.pk] or not readings.setup.channels:
        return
    slip = slip_of_ratio(ends[run.pk] / ends[other.pk], (1e-6, 1e-3, 1e3, 1e6))
    if slip is None:
        return
    key = readings.setup.channels[0].key
    yield Hint(
        key,
        f"{run.name}'s time looks like {SLIPS[slip]}seconds",
        f"It lasts {ends[run.pk]:.4g} s, {other.name} {ends[other.pk]:.4g} s.",
        f"Multiply its time by {1 / slip:g}",
        TimeBase(channels=[key], factor=1 / slip),
    )


def _of_temperature(readings: RunReadings, look: _Look, looks: list[_Look]) -> Iterator[Hint]:
    """A strain gauge whose reading goes with a thermometer's alone."""
    import numpy as np
    from yoke_core.corrections.hints import drift_with_temperature

    channel = readings.measured.get(look.channel.key)
    gauge_factor = channel.scaling.factor_of_gauge if channel else None
    if channel is None or gauge_factor is None or any(s.on for s in channel.steps):
        return
    for thermometer in (x for x in looks if x.channel.quantity == "temperature"):
        temperature = np.interp(look.times, thermometer.times, thermometer.middle)
        slope = drift_with_temperature(look.middle, temperature)
        warming = float(np.ptp(temperature))
        if slope is None or abs(slope) * warming < MIN_DRIFT:
            continue
        begin_c = from_si(float(temperature[np.isfinite(temperature)][0]), "°C")
        per_sheet = slope * gauge_factor / 2.0
        step = ThermalOutput(
            temperature=thermometer.channel.key, coefficients=[-per_sheet * begin_c, per_sheet]
        )
        micro, name = factor("µm/m"), thermometer.channel.name
        yield Hint(
            channel.key,
            f"{channel.name} drifts {abs(slope) * warming / micro:.3g} µm/m: temperature?",
            f"{name} changed by {warming:.2g} K; {slope / micro:.3g} µm/m per K explain it.",
            f"Take it off with {name}",
            StepsCorrection(channels=[channel.key], steps=[*channel.steps, step]),
        )
        return
