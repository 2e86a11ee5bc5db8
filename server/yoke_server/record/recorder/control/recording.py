"""One run being recorded: a track for each device, conditions over what they give."""

import json
from collections.abc import Callable, Sequence
from datetime import datetime
from typing import Any

from yoke_core.fatigue.cycle_meter import CycleMeter

from yoke_server.bench.drivers.base import FrameState
from yoke_server.kinds.keep_rules.base import main_of
from yoke_server.kinds.stops.conditions import StopCondition
from yoke_server.record.recorder.control.programme import ARRIVED, ProgrammeRunner
from yoke_server.record.recorder.control.track import Track
from yoke_server.record.recorder.control.waiting import waiting_of
from yoke_server.record.recorder.model.progress import (
    KEEPING,
    Closed,
    LegLog,
    Pauses,
    RunProgress,
    reached_of,
)
from yoke_server.record.recorder.storage.work import Work, progress_mark
from yoke_server.record.recorder.stream.computed_writer import ComputedEnd
from yoke_server.record.recorder.stream.guards import Guards, Trip
from yoke_server.record.recorder.stream.keep.keeping import Keeping
from yoke_server.record.recorder.stream.positioned import PositionedBlock
from yoke_server.record.recorder.stream.stop_conditions import TAIL, stop_conditions_of
from yoke_server.setups.document import FrozenSetup

STOOD = {
    "arrived": "The actuator has done its part",
    "force limit": "The actuator stopped at a limit of its own",
}


class Recording:
    """Everything of a run that lives while it records.

    on_done : called once, with why, as soon as the run is to end or cannot go on
    on_trip : called with each guard that trips
    on_fired : called with the words of the trigger once it has come
    is_dry : all is played, and nothing is kept
    put : takes what is to be stored
    """

    def __init__(
        self,
        run_id: int,
        name: str,
        setup: FrozenSetup,
        start_ns: int,
        bench_ns: Callable[[], int],
        on_done: Callable[[str], None],
        on_trip: Callable[[Trip], None],
        on_fired: Callable[[str], None],
        put: Callable[[Work], None],
        utc: Callable[[], datetime],
        is_dry: bool = False,
    ) -> None:
        self.is_dry = is_dry
        self.run_id = run_id
        self.name = name
        self.setup = setup
        self.start_ns = start_ns
        self.tracks: dict[str, Track] = {}
        self.triggered = ""  # what ends the run, once it has happened
        self.fault = ""  # why it cannot go on
        self.programme: ProgrammeRunner | None = None  # once something has been begun
        self.pauses = Pauses()
        self._tail_until_ns = 0
        self._bench_ns = bench_ns
        self._on_done = on_done
        self._on_trip = on_trip
        self._last: dict[str, PositionedBlock] = {}  # that was looked at, by device
        self.legs = LegLog()
        self.keeping: Keeping | None = None
        self._put = put
        self.waiting = waiting_of(setup)
        self._on_fired, self._utc = on_fired, utc
        self._last_kept: dict[str, PositionedBlock] = {}
        self._conditions = stop_conditions_of(setup)
        self.guards = Guards(setup)

    @property
    def elapsed_s(self) -> float:
        """Bench seconds since the first sample, without pauses."""
        now_ns = self._bench_ns()
        return max(0.0, (now_ns - self.start_ns - self.pauses.took_ns(now_ns)) * 1e-9)

    @property
    def is_over(self) -> bool:
        """What was to end it has happened, and its tail is recorded."""
        return bool(self.triggered) and self._bench_ns() >= self._tail_until_ns

    @property
    def missing_blocks(self) -> int:
        return sum(t.line.missing_blocks for t in self.tracks.values())

    @property
    def watched_devices(self) -> set[str]:
        """Devices without whose samples nothing may move."""
        leg = self.programme.watched_device if self.programme else None
        found = self._conditions.devices | self.guards.devices | ({leg} if leg else set())
        return found or set(self.tracks)

    @property
    def cycles(self) -> CycleMeter | None:
        """What counts the cycles of a run that has some."""
        return self._conditions.cycles

    def resume(self, progress: RunProgress) -> None:
        """Go on from what was reached; what had ended the run ends it now."""
        self._conditions.resume(progress.conditions)
        self.triggered = progress.triggered
        self.pauses = progress.pauses
        if progress.has_fired:
            self.waiting = None
        self.legs = progress.legs

    def look(self, device: str, placed: PositionedBlock) -> None:
        """See a block, the next of its device, as it comes: guards, what is lost, the trigger."""
        follows = placed.continues(self._last.get(device))
        self._last[device] = placed.bare()
        for trip in self.guards.look(device, placed.summary, follows):
            self._on_trip(trip)
        if self.programme and not self.pauses.covers(placed.begin_ns):
            self.programme.look(device, placed.summary, follows)
            self._look_for(self._conditions.moving, device, placed, follows)
        if self.waiting and (at_ns := self.waiting.look(device, placed, follows)) is not None:
            self._fire(at_ns, placed)

    def _look_for(
        self,
        conditions: Sequence[StopCondition],
        device: str,
        placed: PositionedBlock,
        follows: bool,
    ) -> None:
        for condition in conditions:
            if condition.device == device and condition.is_met(placed.summary, follows):
                self.trigger(condition.words)

    def _fire(self, at_ns: int, placed: PositionedBlock | None = None) -> None:
        """The trigger has come: the run begins with the first sample that is kept."""
        assert self.waiting is not None
        words, from_ns = self.waiting.words, at_ns - round(self.waiting.pre_s * 1e9)
        firsts = [track.held.first_after(from_ns) for track in self.tracks.values()]
        begins = [block.begin_ns for block in (*firsts, placed) if block and block.end_ns > from_ns]
        self.start_ns = min(begins, default=from_ns)
        for track in self.tracks.values():
            track.held.drop_before(from_ns)
        self.waiting = None
        self._on_fired(words)

    def reach(self, device: str, placed: PositionedBlock) -> str:
        """See whether a block that is kept, the next of its device, ends the run; gives what is
        reached."""
        follows = placed.continues(self._last_kept.get(device))
        self._last_kept[device] = placed.bare()
        if self.pauses.covers(placed.begin_ns):
            return ""
        self._look_for(self._conditions.samples, device, placed, follows)
        reached = self._reached(device)
        return json.dumps(reached) if reached else ""

    def _reached(self, device: str) -> dict[str, Any]:
        """With all blocks of a device that were looked at."""
        states = self._conditions.state_of(device)
        return reached_of(device, states, self.triggered) if states or self.triggered else {}

    def look_at_time(self) -> None:
        seconds = None if self.waiting else self._conditions.seconds
        if seconds is not None and self.elapsed_s >= seconds:
            self.trigger(f"The {seconds:g} s are over")

    def look_at_actuator(self, state: FrameState) -> None:
        """One that stands has done its part, or was stopped; see `ProgrammeRunner`."""
        if self.programme and not self.triggered:
            self.programme.look_at_actuator(state)
            self._look_at_programme()

    def _look_at_programme(self) -> None:
        """A programme that is over, or stands at a limit of the actuator's, may end the run."""
        programme = self.programme
        if programme is None or not self._conditions.motion_end:
            return
        cause = ARRIVED if programme.is_over else programme.stood
        if words := STOOD.get(cause):
            self.trigger(words)

    def is_left_out(self, placed: PositionedBlock, legs: Sequence[int] = ()) -> bool:
        """Whether a block was taken in a pause, or in none of these legs (from 1, if any); one
        that comes late may be of before it."""
        at_ns = placed.begin_ns
        if self.is_dry or self.pauses.covers(at_ns):
            return True
        leg = self.legs.at(at_ns) if legs else None
        return bool(legs) and (leg is None or leg + 1 not in legs)

    @property
    def kept(self) -> dict[str, tuple[int, int]]:
        """Of each keep rule so far the samples of its longest stream, and the bytes of all."""
        found = self.keeping.kept if self.keeping else {}
        main = main_of(self.setup.keep_rules)
        writers = [t.writer for t in self.tracks.values() if t.writer]
        if main:
            longest = max((writer.samples for writer in writers), default=0)
            found[main[0]] = longest, sum(writer.nbytes for writer in writers)
        return found

    def trigger(self, words: str) -> None:
        """Only the first counts."""
        if self.triggered:
            return
        self.triggered = words
        self._tail_until_ns = self._bench_ns() + round(TAIL * 1e9)
        self._on_done(words)

    def fail(self, device: str, why: str) -> None:
        """It cannot go on: nothing moves any more; it is ended with the next look at it."""
        self.fault = self.fault or f"{device} {why}"
        self._on_done(self.fault)

    def tick(self) -> None:
        if self.waiting and self.waiting.is_due(self._utc()):
            self._fire(self._bench_ns())
        self.look_at_time()
        if self.programme and not self.triggered:
            self.programme.tick()
            self._look_at_programme()
        for track in self.tracks.values():
            track.tick()
        if self.keeping and self.keeping.is_due and not self.is_dry:
            self._write_kept(self.keeping)

    def _write_kept(self, keeping: Keeping) -> None:
        """The main streams, so that they are never behind the others; then what the keep rules
        have filled, and behind it from where they are resumed."""
        for track in self.tracks.values():
            track.flush()
        for row in keeping.take():
            self._put(row)
        reached: dict[str, Any] = {KEEPING: keeping.state}
        for track in self.tracks.values():
            if track.writer is None:  # else it goes with the rows of the main stream
                reached |= self._reached(track.device)
        self._put(progress_mark(self.run_id, self._bench_ns(), reached))

    def leave(self) -> None:
        """Write the ordered blocks; the next recorder resumes the run."""
        if self.keeping and self.keeping.devices:
            self._write_kept(self.keeping)
        for track in self.tracks.values():
            track.flush()

    def finish(self) -> list[Closed]:
        """Give everything that was received to the store."""
        ends = [end for track in self.tracks.values() for end in track.finish()]
        rows, kept = self.keeping.finish() if self.keeping else ([], [])
        for row in rows:
            self._put(row)
        return [*ends, *kept]

    def finish_computed(self) -> list[ComputedEnd]:
        """How the computed streams end, after `finish`."""
        return [end for track in self.tracks.values() for end in track.finish_computed()]
