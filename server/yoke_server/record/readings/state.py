"""What screens show of a run's readings: its channels, how far computed ones are, corrections."""

from yoke_server.kinds.corrections.base import RunCorrection
from yoke_server.record.models import OPEN_STATES, Correction, Run, Stream
from yoke_server.record.readings.definitions import (
    CORRECTIONS,
    RunReadings,
    corrections_of,
    readings_of,
    version_of,
)
from yoke_server.record.schemas import CorrectionOut, RunReadingOut, RunReadingsOut


def readings_out(run: Run) -> RunReadingsOut:
    """Each channel of a run as it is read, and the run's corrections in their order."""
    readings = readings_of(run)
    streams = Stream.everything.filter(run=run, home__isnull=False).select_related("home")
    grows = run.state in OPEN_STATES  # then it is as far as the run
    shares = {stream.fingerprint: 1.0 if grows else _share(stream) for stream in streams}
    shown = {c.key for c in readings.channels}
    faults = readings.signals.faults.items()
    rows = [row for row in run.corrections.select_related("actor") if CORRECTIONS in row.changes]
    return RunReadingsOut(
        version=version_of(run),
        channels=[_reading_out(readings, c.key, shares) for c in readings.channels],
        problems=[fault for key, fault in faults if key not in shown],
        corrections=[_correction_out(readings, c, rows) for c in corrections_of(run)],
    )


def _share(stream: Stream) -> float:
    """How much of a computed stream is there, from 0 to 1."""
    if stream.complete or stream.home is None:
        return 1.0
    return min(0.99, stream.samples / max(1, stream.home.samples))


def _reading_out(readings: RunReadings, key: str, shares: dict[str, float]) -> RunReadingOut:
    channel = readings.channel(key)
    assert channel is not None
    computed, problem = readings.is_computed(key), readings.problem(key)
    fingerprint = readings.fingerprint(key) if computed and not problem else ""
    return RunReadingOut(
        key=key,
        name=channel.name,
        quantity=channel.quantity,
        unit=channel.unit,
        factor=channel.factor,
        offset=channel.offset,
        decimals=channel.decimals,
        device=readings.device(key),
        formula="" if channel.measured else readings.formula(key),
        share=shares.get(fingerprint, 0.0) if computed else 1.0,
        problem=problem,
        fingerprint=fingerprint,
    )


def correction_lines(run: Run) -> list[str]:
    """Each correction of a run with its reason, its author and its day; said where it is off."""
    return [_correction_line(made) for made in readings_out(run).corrections]


def _correction_line(made: CorrectionOut) -> str:
    what = f"{made.title} of {', '.join(made.channels)} {made.said}".rstrip()
    off = "" if made.correction.on else ", switched off"
    return f"{what}{off} ({made.reason}; {made.by}, {made.at:%Y-%m-%d})"


def _correction_out(
    readings: RunReadings, correction: RunCorrection, rows: list[Correction]
) -> CorrectionOut:
    """A correction with why, by whom and when it was made: of the first row that has it."""
    having = [r for r in rows if any(c["key"] == correction.key for c in r.changes[CORRECTIONS])]
    made = having[0]
    channels = [c for key in correction.channels if (c := readings.channel(key))]
    actor = made.actor
    return CorrectionOut(
        correction=correction,
        title=correction.name or correction.title,
        channels=[c.name for c in channels],
        said=correction.said(channels[0]) if channels else "",
        reason=made.reason,
        by=(actor.get_full_name() or actor.username) if actor else "",
        at=made.at,
    )
