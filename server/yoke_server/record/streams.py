"""What lists and reports say of the streams of runs: length, gaps, clock steps, channels.

One query for all runs of a page; of a stream's segments only the first, the last and those
where something is missing are read, so that it costs nothing that a run is long.
"""

import struct
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from yoke_server.record.models import Cause, Layout, RunState
from yoke_server.record.samples import driver_cursor

# Written out by hand: the planner looks a segment up by its place in the index, one each.
STREAMS_SQL = """
SELECT s.run_id, s.id, s.device_label, s.rule, s.layout, s.sample_bytes, s.rate_hz, own.samples,
       newest.last_time, (first.bench_ns - r.start_ns) * 1e-9,
       (last.bench_ns - r.start_ns) * 1e-9 + (own.samples - last.first_sample) / last.rate_hz,
       first.missing_blocks > 0,
       ARRAY(SELECT ARRAY[
                 (before.bench_ns - r.start_ns) * 1e-9
                     + (g.first_sample - before.first_sample) / before.rate_hz,
                 (g.bench_ns - r.start_ns) * 1e-9]
             FROM record_segment g CROSS JOIN LATERAL (
                 SELECT * FROM record_segment
                 WHERE stream_id = g.stream_id AND first_sample < g.first_sample
                 ORDER BY first_sample DESC LIMIT 1) before
             WHERE g.stream_id = s.id AND g.cause = %(gap)s AND g.first_sample < own.samples
             ORDER BY g.first_sample LIMIT %(most)s),
       (SELECT count(*) FROM record_segment g
        WHERE g.stream_id = s.id AND g.cause = %(step)s AND g.first_sample < own.samples),
       ARRAY(SELECT channel_key FROM record_streamchannel
             WHERE stream_id = s.id ORDER BY position)
FROM record_run r JOIN record_stream s ON s.run_id = r.id
CROSS JOIN LATERAL (
    SELECT CASE WHEN r.state = %(open)s THEN coalesce((
        SELECT first_sample + samples FROM record_block WHERE stream_id = s.id
        ORDER BY first_sample DESC LIMIT 1), 0) ELSE s.samples END AS samples) own
LEFT JOIN LATERAL (
    SELECT substr(data, length(data) - 7) AS last_time FROM record_block
    WHERE stream_id = s.id AND s.layout = %(timed)s
    ORDER BY first_sample DESC LIMIT 1) newest ON true
LEFT JOIN LATERAL (
    SELECT * FROM record_segment WHERE stream_id = s.id AND own.samples > 0
    ORDER BY first_sample LIMIT 1) first ON true
LEFT JOIN LATERAL (
    SELECT * FROM record_segment WHERE stream_id = s.id AND first_sample < own.samples
    ORDER BY first_sample DESC LIMIT 1) last ON true
WHERE r.id = ANY(%(runs)s) AND s.home_id IS NULL ORDER BY s.run_id, s.device_label, s.id
"""
MAX_GAPS = 1000  # listed of a stream; more are told by nobody


@dataclass(frozen=True, slots=True)
class StreamFacts:
    """A stream without its samples; times in seconds of the run, both 0 without any sample.

    rule : the name of the keep rule that filled it
    layout : whether all samples follow each other at one rate, or each has its time
    gaps : (from, to), where blocks are missing; at most `MAX_GAPS`
    clock_steps : how often the device's clock was put meanwhile
    channels : keys, in the order of the stream
    """

    id: int
    device: str
    rule: str
    layout: str
    sample_bytes: int
    rate_hz: float
    samples: int
    start_s: float
    end_s: float
    gaps: list[tuple[float, float]]
    clock_steps: int
    channels: list[str]

    @property
    def is_timed(self) -> bool:
        return self.layout == Layout.TIMED

    @property
    def nbytes(self) -> int:
        """Of its samples, without what is derived of them."""
        return self.samples * self.sample_bytes * (len(self.channels) + self.is_timed)

    def stretched(self, factor: float) -> "StreamFacts":
        """The same with all times multiplied."""
        if factor == 1.0:
            return self
        return replace(
            self,
            rate_hz=self.rate_hz / factor,
            start_s=self.start_s * factor,
            end_s=self.end_s * factor,
            gaps=[(a * factor, b * factor) for a, b in self.gaps],
        )


def streams_of_runs(runs: Sequence[int]) -> dict[int, list[StreamFacts]]:
    """Of each run, by its primary key, its streams by device."""
    asked = {
        "runs": list(runs),
        "open": RunState.RECORDING.value,
        "gap": Cause.GAP.value,
        "step": Cause.STEP.value,
        "timed": Layout.TIMED.value,
        "most": MAX_GAPS,
    }
    found: dict[int, list[StreamFacts]] = {run: [] for run in runs}
    for run, *row in driver_cursor().execute(STREAMS_SQL, asked).fetchall():
        found[run].append(_facts(*row))
    return found


def streams_of(run_id: int) -> list[StreamFacts]:
    return streams_of_runs([run_id])[run_id]


def _facts(
    key: int,
    device: str,
    rule: str,
    layout: str,
    sample_bytes: int,
    rate_hz: float,
    samples: int,
    last_time: bytes | None,
    start_s: Any,
    end_s: Any,
    late: bool | None,
    gaps: list[list[Any]],
    steps: int,
    channels: list[str],
) -> StreamFacts:
    start, end = float(start_s or 0.0), float(end_s or 0.0)
    if last_time:  # the last of the times, which stand behind the channels
        (end,) = struct.unpack("<d", last_time)
    listed = [(float(a), float(b)) for a, b in gaps]
    return StreamFacts(
        key,
        device,
        rule,
        layout,
        sample_bytes,
        rate_hz,
        samples,
        start,
        end,
        [(0.0, start)] * bool(late) + listed,
        steps,
        channels,
    )
