"""The table of a run's steps: of each the averages of all channels over its end.

They are made of what is stored, as it is read now: corrections change them too.
"""

from dataclasses import dataclass

import numpy as np

from yoke_server.record.models import Layout, Marker, MarkerKind, Run
from yoke_server.record.readings.definitions import RunReadings
from yoke_server.record.readings.stored import StoredReadings, stored_readings


@dataclass(frozen=True, slots=True)
class Average:
    """Of a channel over a stretch, SI; None where no sample has a reading. ``deviation`` is that
    of a single sample."""

    channel: str
    mean: float | None
    deviation: float | None
    samples: int


@dataclass(frozen=True, slots=True)
class StepRow:
    """A step: what it was, the stretch that is averaged (s of the run), each channel's average."""

    words: str
    from_s: float
    to_s: float
    averages: list[Average]


def steps_of(run: Run, readings: RunReadings) -> list[StepRow]:
    """In the order of time; empty for a run without steps."""
    marks = run.markers.filter(kind=MarkerKind.STEP, from_ns__isnull=False)
    if not marks:
        return []
    stored = set(run.streams.filter(layout=Layout.UNIFORM).values_list("device_label", flat=True))
    found = {
        c.key: stored_readings(readings, c.key) if readings.device(c.key) in stored else None
        for c in readings.channels
    }
    return [_row(run, mark, found) for mark in marks]


def _row(run: Run, mark: Marker, found: dict[str, StoredReadings | None]) -> StepRow:
    from_s, to_s = ((ns - run.start_ns) * 1e-9 for ns in (mark.from_ns or 0, mark.at_ns))
    averages = [_average(key, one, from_s, to_s) for key, one in found.items()]
    return StepRow(mark.text, from_s, to_s, averages)


def _average(key: str, stored: StoredReadings | None, from_s: float, to_s: float) -> Average:
    if stored is None:
        return Average(key, None, None, 0)
    first, last = stored.times.place_of(from_s), stored.times.place_of(to_s)
    readings = stored.read(first, last)
    known = readings[np.isfinite(readings)]
    if not len(known):
        return Average(key, None, None, 0)
    deviation = float(known.std(ddof=1)) if len(known) > 1 else 0.0
    return Average(key, float(known.mean()), deviation, len(known))
