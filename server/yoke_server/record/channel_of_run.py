"""A channel of a run for plots: looked up once, then followed as it grows."""

from dataclasses import dataclass, field, replace
from typing import TYPE_CHECKING

from yoke_server.record.models import OPEN_STATES, Layout, Run
from yoke_server.record.queries import StreamTimes
from yoke_server.record.readings.definitions import readings_of
from yoke_server.record.readings.stored import stored_readings
from yoke_server.record.samples import driver_cursor
from yoke_server.setups.readable import ReadableChannel

if TYPE_CHECKING:
    from yoke_core.signals.chain import SignalChain


@dataclass(frozen=True, slots=True)
class ChannelOfRun:
    """Where a channel's samples stand, and how they become its readings.

    channel : its name and its unit
    chain : from samples to readings in SI
    fresh : of an open run the samples that came since it was looked at before, as stored
    looked_up : the same for as long as samples were only added
    """

    times: StreamTimes
    place: int
    channel: ReadableChannel
    chain: "SignalChain"
    fresh: bytes = b""
    looked_up: object = field(default_factory=object)


# What a look at an open run asks anew: whether it has ended or has another segment, and its newer
# blocks, of which one channel's part.
GROWN_SQL = """
SELECT r.state, EXISTS (SELECT 1 FROM record_segment
                        WHERE stream_id = coalesce(s.home_id, s.id)
                        AND first_sample > %(segment)s),
       b.first_sample, b.samples, substr(b.data,
           1 + %(bytes)s * b.samples * %(channel)s, %(bytes)s * b.samples)
FROM record_stream s JOIN record_run r ON r.id = s.run_id
LEFT JOIN record_block b ON b.stream_id = s.id
    AND b.first_sample >= %(known)s AND b.first_sample < %(known)s + %(most)s
WHERE s.id = %(stream)s ORDER BY b.first_sample
"""
MAX_FRESH = 1 << 18  # samples; of a run that grew by more, all is looked up again
MAX_REMEMBERED = 256

_known: dict[tuple[int, str, str], ChannelOfRun] = {}


def channel_of_run(
    run_id: int, key: str, until_s: float | None = None, version: str = ""
) -> ChannelOfRun | None:
    """A channel of a run, with its samples so far, or at least those ``until_s``.

    What was seen once is remembered by the ``version`` of the run's readings, since a plot that
    zooms or follows asks for it often: with one version a closed run never changes, an open one
    only grows. Of a computed channel there may be less than of the run, or nothing yet.
    """
    known = _known.get((run_id, key, version))
    if known and not version and not known.times.open:
        known = None  # it may have been corrected
    if known and (not known.times.open or _reaches(known.times, until_s)):
        return known
    known = (_grown(known) if known else None) or _look_up(run_id, key)
    if known is None:
        return None
    if len(_known) >= MAX_REMEMBERED:
        _known.clear()
    _known[run_id, key, version] = known
    return known


def _reaches(times: StreamTimes, until_s: float | None) -> bool:
    return until_s is not None and bool(times.segments) and until_s <= times.segments[-1].end_s


def _look_up(run_id: int, key: str) -> ChannelOfRun | None:
    run = Run.objects.select_related("revision", "setup").filter(pk=run_id).first()
    if run is None:
        return None
    readings = readings_of(run)
    channel = readings.channel(key)
    device = readings.device(key)
    if (
        channel is None
        or not run.streams.filter(device_label=device, layout=Layout.UNIFORM).exists()
    ):
        return None
    found = stored_readings(readings, key)
    if found is None:
        return None
    return ChannelOfRun(found.times, found.place, channel, found.chain)


def _grown(known: ChannelOfRun) -> ChannelOfRun | None:
    """The same a moment later; None if more has changed than that samples were added."""
    times = known.times
    if not times.segments:
        return None
    wanted = {
        "stream": times.stream.pk,
        "channel": known.place,
        "known": times.samples,
        "segment": times.segments[-1].first,
        "most": MAX_FRESH,
        "bytes": times.stream.sample_bytes,
    }
    rows = driver_cursor().execute(GROWN_SQL, wanted, prepare=True, binary=True).fetchall()
    if not rows or rows[0][0] not in OPEN_STATES or rows[0][1]:
        return None
    blocks = [row[2:] for row in rows if row[2] is not None]
    ends = [times.samples, *(first + samples for first, samples, _ in blocks)]
    fits = all(first == end for (first, *_), end in zip(blocks, ends, strict=False))
    if not fits or ends[-1] - times.samples >= MAX_FRESH:
        return None
    last = replace(times.segments[-1], last=ends[-1])
    grown = replace(times, samples=last.last, segments=[*times.segments[:-1], last])
    return replace(known, times=grown, fresh=b"".join(part for *_, part in blocks))
