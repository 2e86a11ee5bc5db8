"""A channel as it would be read with a correction more, or before it is stored as it is read."""

from typing import TYPE_CHECKING

from yoke_server.common.http.problems import Problem
from yoke_server.kinds.corrections.base import RunCorrection
from yoke_server.record.channel_of_run import ChannelOfRun
from yoke_server.record.corrections import proposed
from yoke_server.record.models import Run
from yoke_server.record.plot_data import PlotSegment, encoded, encoded_view, fold_to
from yoke_server.record.queries import StreamTimes, window_of
from yoke_server.record.readings.build import part_of
from yoke_server.record.readings.definitions import RunReadings
from yoke_server.record.readings.stored import measured_times, raw_readings

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import NDArray

MOST = 1 << 18  # samples that are computed while somebody waits


def encoded_preview(
    run: Run,
    correction: RunCorrection,
    key: str,
    window: tuple[float | None, float | None],
    pixels: int,
) -> bytes:
    """A view in SI as the web reads it (see the API's `run_view`)."""
    from yoke_core.signals.chain import SignalChain

    readings = proposed(run, correction)
    channel = readings.channel(key)
    if channel is None:
        raise Problem(404, "This run has no such channel.", field="channel")
    times = measured_times(readings, readings.device(key))
    begin, end = window_of(times, *window)
    if not readings.is_computed(key):
        raw = raw_readings(readings, key)
        return encoded_view(
            ChannelOfRun(raw.times, raw.place, channel, raw.chain), begin, end, pixels
        )
    return encoded(_segments(readings, key, times, (begin, end), pixels), SignalChain(()))


def encoded_part(
    readings: RunReadings, key: str, window: tuple[float | None, float | None], pixels: int
) -> bytes:
    """What a computed channel of a closed run shows in a window before it is stored, as far as
    that is computed at once. A 409 problem where it is computed of what is not stored yet."""
    from yoke_core.signals.chain import SignalChain

    times = measured_times(readings, readings.device(key))
    shown = window_of(times, *window)
    return encoded(_segments(readings, key, times, shown, pixels), SignalChain(()))


def _segments(
    readings: RunReadings, key: str, times: StreamTimes, window: tuple[float, float], pixels: int
) -> list[PlotSegment]:
    """Columns of what lies in the window, piece by piece, as far as is computed at once."""
    import numpy as np

    first, last = times.place_of(window[0]), times.place_of(window[1]) + 1
    blocks = part_of(readings, key, (first, last), MOST)
    pieces: list[tuple[int, list[NDArray[np.float64]]]] = []
    for block in blocks:
        part = block.values[max(0, first - block.first) : last - block.first]
        if not len(part):
            continue
        if not block.follows or not pieces:
            pieces.append((max(block.first, first), []))
        pieces[-1][1].append(part)
    total = max(1, sum(len(p) for _, parts in pieces for p in parts))
    return [_segment(times, begin, np.concatenate(parts), pixels, total) for begin, parts in pieces]


def _segment(
    times: StreamTimes, begin: int, values: "NDArray[np.float64]", pixels: int, total: int
) -> PlotSegment:
    import numpy as np

    columns = max(1, pixels * len(values) // total)
    samples = values.astype(np.float32)
    with np.errstate(invalid="ignore"):
        low, high = fold_to(samples, columns, np.fmin), fold_to(samples, columns, np.fmax)
    start_s, end_s = times.seconds_of(np.array([begin, begin + len(values)]))
    return PlotSegment(float(start_s), float(end_s - start_s) / len(low), low, high)
