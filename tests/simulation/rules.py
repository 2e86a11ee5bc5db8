"""What must hold whatever happens: looked at from outside, by what the stand-ins know."""

import math
from collections import defaultdict
from dataclasses import dataclass, field
from typing import TYPE_CHECKING, Any

import numpy as np
from yoke_core.fatigue.cycle_meter import CycleMeter
from yoke_core.keeping.decimation import REACH, Decimator
from yoke_core.keeping.turns import CycleTurns
from yoke_core.tension.stop import ForceDropWatch
from yoke_server.bench.models import OrderState
from yoke_server.kinds.triggers.at_once import AtOnce
from yoke_server.live.protocol import Phase
from yoke_server.record.models import Cause, RunState
from yoke_server.record.recorder.model.progress import read_progress
from yoke_server.record.recorder.stream.block_order import MAX_HELD
from yoke_server.record.recorder.stream.stop_conditions import TAIL
from yoke_server.record.seal import seal

from tests.simulation.actuator import HEARTBEAT
from tests.simulation.devices import CAPACITY_N, OUTPUT
from tests.simulation.server import RunRow, StreamRow
from tests.simulation.sessions import data_of, planes_of, stored_pairs
from tests.simulation.virtual import BLOCK_S, PER_BLOCK, RAIL, RATE_HZ, START_NS

if TYPE_CHECKING:
    from tests.simulation.stage import Process, Stage

BREAKS = (Cause.GAP.value, Cause.PAUSE.value, Cause.STEP.value)
CATCHES_UP_S = 10.0  # in which a new recorder has what the devices kept for it
GATE_N = 300.0  # of the cycles whose turning points are kept

SLACK = HEARTBEAT + 0.8  # s within which a stop must have reached the actuator, come what may
PROMPT = 0.6  # s within which it stands where it is there and obeys
AT_ONCE = 0.35  # s, where nothing has to be waited for
SEEN_S, WRITTEN_S = 1.0, 5.0  # how old the newest sample, and the last write, may be
PERMIT_S = 0.8
BLIND_S = 2.5  # how long a force may have no reading
HIDDEN_N = 1e6  # a force beyond all ranges
NEAR_S = 0.15  # by which a sample may lie beside its true time
GIVEN_UP_S = 4.5  # a block is not given up sooner, as long as its device may still send it
QUEUE_BYTES = 8000
MAIN = "everything"  # the rule of the main streams


MOVING_ORDERS = {"start", "go_on", "skip", "unload"}
WAITING = (Phase.ARMING, Phase.MEASURING, Phase.SHUNTING, Phase.CHECKING)


def ordered_by(motion_id: str) -> str:
    """The key of the order by which a motion was begun."""
    return motion_id.partition("/")[0]


def stored_pauses(run: RunRow) -> list[tuple[float, float]]:
    """The pauses that a run's progress names, in true seconds: from and to."""
    pauses = read_progress(run.progress).pauses
    found = [*pauses.past, *([(pauses.began_ns, None)] if pauses.why else [])]
    return [
        ((begin - START_NS) * 1e-9, math.inf if end is None else (end - START_NS) * 1e-9)
        for begin, end in found
    ]


class Broken(AssertionError):
    """A rule does not hold."""


@dataclass(eq=False)
class Rules:
    """Told of what happens, asked after each step and at the end."""

    stage: "Stage"
    since: dict[str, float] = field(default_factory=dict)  # why it must stand, and since when
    states: dict[int, str] = field(default_factory=dict)
    newest: dict[str, float] = field(default_factory=dict)  # true time of what arrived last
    in_run: dict[tuple[int, str], set[int]] = field(default_factory=lambda: defaultdict(set))
    coverage: dict[tuple[str, str], int] = field(default_factory=lambda: defaultdict(int))
    frame_troubled_at: float = -1e9
    recording_s: float = 0.0
    moving_s: float = 0.0
    unflushed_at: float = -1e9  # when the server last could not flush its log
    over_since: float | None = None  # the time of the run that is recorded
    full_since: float | None = None  # the writer, while a run is recorded
    shunt_since: float | None = None  # one that is on at rest
    refused_since: float | None = None  # the samples of the run that is recorded
    seen_motions: int = 0
    lost_since: float | None = None  # a device that a start waits for
    acquisitions: dict[str, int] = field(default_factory=dict)  # of what arrived last
    anew: dict[str, float] = field(default_factory=dict)  # since when it is not the run's
    stops_at: dict[str, float] = field(default_factory=dict)  # when each was given
    # Of each run, its pauses in true seconds: their begin, and their end.
    pauses: dict[int, dict[float, float]] = field(default_factory=lambda: defaultdict(dict))

    # What it is told

    def saw_block(self, process: "Process", event: Any) -> None:
        """A block came to a recorder."""
        block, label, stage = event.block, event.device, self.stage
        made = stage.devices[label].made_at.get((block.acquisition, block.sequence))
        if made is not None and not block.again:
            self.newest[label] = max(made, self.newest.get(label, 0.0))
            self.acquisitions[label] = block.acquisition
        recording = process.recorder.run.recording
        stream = self._stream_of(recording, label) if recording else None
        if stream and block.acquisition == stream.place.acquisition:
            self.in_run[recording.run_id, label].add(block.sequence)

    def _stream_of(self, recording: Any, label: str) -> StreamRow | None:
        run = self.stage.server.runs[recording.run_id]
        return self.stage.server.streams.get(run.streams.get((label, MAIN), 0))

    def process_died(self) -> None:
        """What it had in hand must come again, or show as missing."""
        self.in_run.clear()

    def gave_stop(self, key: str) -> None:
        self.stops_at[key] = self.stage.clock.now

    # After each step

    def check(self, seconds: float) -> None:
        self._count(seconds)
        self._motions_are_ordered()
        self._nothing_moves_unwatched()
        self._states_go_allowed_ways()
        self._no_shunt_is_on_in_a_run()
        self._no_shunt_is_left_on()
        self._nothing_begins_without_its_devices()
        self._nothing_reached_is_forgotten()
        self._time_ends_the_run()
        self._refused_samples_end_the_run()
        self._what_begins_anew_ends_the_run()
        self._a_full_queue_ends_the_run()
        self._memory_is_bounded()

    def _count(self, seconds: float) -> None:
        process = self.stage.process
        if process is None or process.hung:
            for device in self.stage.devices.values():
                device.trouble()  # nobody looks at what it sends
        if self.stage.server.open_runs():
            self.recording_s += seconds
        if process and (recording := process.recorder.run.recording):
            self._note_pauses(recording)
        if self.stage.frame.is_pulling:
            self.moving_s += seconds

    def _note_pauses(self, recording: Any) -> None:
        known = self.pauses[recording.run_id]
        for begin, end in recording.pauses.past:
            known[(begin - START_NS) * 1e-9] = (end - START_NS) * 1e-9
        if recording.pauses.why:
            known[(recording.pauses.began_ns - START_NS) * 1e-9] = math.inf

    def _motions_are_ordered(self) -> None:
        """Each that began has its order, alive then, and requested after the newest stop; the
        legs after the first are by the same order, however long that takes."""
        for at, motion, name in self.stage.motions[self.seen_motions :]:
            order = self.stage.server.orders.get(ordered_by(name))
            kinds = {"return"} if motion == "RETURN" else MOVING_ORDERS
            if order is None or order.kind not in kinds:
                raise Broken(f"{motion} that nobody ordered")
            before = [n for _, _, n in self.stage.motions[: self.seen_motions]]
            if name in before:
                raise Broken("one order moved the actuator twice")
            if order.kind == "start" and not order.arguments["pull"]:
                raise Broken("a run without a motion moved the actuator")
            is_first = not any(ordered_by(n) == ordered_by(name) for n in before)
            self._it_may_begin(order, at, is_first)
            self.seen_motions += 1

    def _it_may_begin(self, order: Any, at: float, is_first: bool) -> None:
        if (
            is_first
            and at - order.given_at > (order.expires_at - order.requested_at).total_seconds() + 0.1
        ):
            raise Broken("an order that is past moved the actuator")
        if is_first and order.state == OrderState.REFUSED:
            raise Broken("an order that was given up moved the actuator")
        for row in self.stage.server.stops.values():
            given = self.stage.told_at.get(row.stop.key, at)
            if row.stop.requested_at >= order.requested_at and at - given > 0.2:
                raise Broken("what was requested before a stop moved after it")
            in_force = row.stop.emergency and not row.released
            if in_force and at - given > 0.2:
                raise Broken("something moved though an emergency stop is in force")

    def _nothing_moves_unwatched(self) -> None:
        frame, now = self.stage.frame, self.stage.clock.now
        reasons = self._reasons() if frame.motion != "HOLD" else {}
        self.since = {why: self.since.get(why, now) for why in reasons}
        for why, patience in reasons.items():
            if now - self.since[why] > patience:
                raise Broken(f"the actuator still moves ({frame.motion}), though {why}")

    def _reasons(self) -> dict[str, float]:
        """Why it must stand, and within how many seconds."""
        stage, process = self.stage, self.stage.process
        frame = stage.frame
        faulty = frame.refuses_stop or frame.mute or frame.foreign or frame.nan or frame.answers_s
        if not frame.reachable or faulty:
            self.frame_troubled_at = stage.clock.now
        obeys = stage.clock.now - self.frame_troubled_at > 3.0
        prompt = PROMPT if obeys else SLACK + 0.5
        if process is None:
            return {"no recorder lives": SLACK}
        reasons = {}
        if ordered_by(frame.motion_id) not in stage.server.orders and not frame.lies:
            reasons["nobody ordered it"] = prompt
        if process.hung:
            reasons["the recorder hangs"] = SLACK + PERMIT_S
            if self._stopped():
                reasons["it was stopped"] = prompt
            return reasons
        if stage.clock.now - stage.server.last_write_ok > WRITTEN_S:
            reasons["nothing can be written"] = prompt + 2.5
        if self._stopped():
            reasons["it was stopped"] = prompt
        if frame.is_pulling:
            reasons |= self._reasons_of_a_pull(process, prompt)
        return reasons

    def _stopped(self) -> bool:
        """A stop was given after the motion began, and the recorder could hear it."""
        began, told = self.stage.frame.began_at, self.stage.told_at
        return any(began <= at and key in told for key, at in self.stops_at.items())

    def _reasons_of_a_pull(self, process: "Process", prompt: float) -> dict[str, float]:
        reasons = {}
        phase = process.recorder.context.phase
        if phase is not Phase.RECORDING:
            reasons[f"the recorder is {phase}"] = prompt + PERMIT_S
        recording = process.recorder.run.recording
        watched = recording.watched_devices if recording else set()
        for label in sorted(watched):
            if self.stage.clock.now - self.newest.get(label, 0.0) > SEEN_S:
                reasons[f"the newest sample of {label} is old"] = prompt + 0.3
        blind = self.stage.devices["A1"].flat or self.stage.force == HIDDEN_N
        if recording and blind and recording._conditions.moving:
            reasons["its force has no reading"] = prompt + BLIND_S
        if recording:
            reasons |= self._reasons_of_its_end(recording, prompt)
        return reasons

    def _reasons_of_its_end(self, recording: Any, prompt: float) -> dict[str, float]:
        reasons = {}
        soon = AT_ONCE if prompt == PROMPT else prompt
        if recording.triggered:
            reasons["what ends the run was seen"] = soon
        if recording.pauses.why:
            reasons["the run is paused"] = soon
        if recording.programme and recording.programme.state.held:
            reasons["the programme is held"] = soon
        if recording.guards.tripped and not self._unloads(recording):
            reasons["a guard has tripped"] = soon
        limit = recording._conditions.seconds
        if limit and recording.elapsed_s > limit:
            reasons["its time is up"] = prompt + 0.4
        return reasons

    def _unloads(self, recording: Any) -> bool:
        """It goes to no load, as a guard has it do; anything else that moves then is wrong."""
        state, frame = recording.programme.state, self.stage.frame
        goes_down = frame.motion == "FORCE" and frame.stays and frame.swing[1] == 0
        return state.unloads_at is not None and goes_down

    def _states_go_allowed_ways(self) -> None:
        server = self.stage.server
        for run_id, run in server.runs.items():
            before = self.states.get(run_id, RunState.RECORDING)
            if before not in (run.state, RunState.RECORDING):
                raise Broken(f"run {run_id} went from {before} to {run.state}")
            self.states[run_id] = run.state
        if len(server.open_runs()) > 1:
            raise Broken("two runs are open on one bench")
        process = self.stage.process
        if process and process.recorder.context.phase is Phase.IDLE and server.open_runs():
            raise Broken("the recorder is idle, and a run is open")

    def _nothing_begins_without_its_devices(self) -> None:
        """A start, or a measurement at rest, whose device was lost is given up at once."""
        process, now = self.stage.process, self.stage.clock.now
        waits = process and process.recorder.context.phase in WAITING and not process.hung
        lost = waits and not all(d.usable for d in process.recorder.context.devices.values())
        self.lost_since = (self.lost_since or now) if lost else None
        if self.lost_since and now - self.lost_since > 0.5:
            raise Broken("what was ordered waits for a device that was lost")

    def _nothing_reached_is_forgotten(self) -> None:
        """What was to end a run ends it with the next recorder too."""
        process = self.stage.process
        recording = process.recorder.run.recording if process else None
        if recording is None or recording.triggered:
            return
        row = self.stage.server.runs[recording.run_id]
        if read_progress(row.progress).triggered:
            raise Broken("what was to end the run was forgotten")

    def _time_ends_the_run(self) -> None:
        process = self.stage.process
        recording = process.recorder.run.recording if process and not process.hung else None
        limit = recording._conditions.seconds if recording else None
        over = recording and limit and recording.elapsed_s > limit + TAIL
        self.over_since = (self.over_since or self.stage.clock.now) if over else None
        if self.over_since and self.stage.clock.now - self.over_since > 0.8:
            raise Broken("its time is up, and it is recorded on")

    def _refused_samples_end_the_run(self) -> None:
        process, server, now = self.stage.process, self.stage.server, self.stage.clock.now
        recording = process.recorder.run.recording if process and not process.hung else None
        keeps = recording and not (recording.is_dry or recording.waiting or recording.pauses.why)
        refused = keeps and recording.run_id in server.refused_runs
        if not refused or now - server.last_write_ok > 1.5:
            self.refused_since = None
            return
        self.refused_since = self.refused_since or now
        if now - self.refused_since > 4.0:
            raise Broken("its samples are refused for good, and it is recorded on")

    def _what_begins_anew_ends_the_run(self) -> None:
        """Samples of a device that has lost its settings are not those of the run."""
        process, now = self.stage.process, self.stage.clock.now
        recording = process.recorder.run.recording if process and not process.hung else None
        if recording is None:
            self.anew.clear()
            return
        for label, acquisition in self.acquisitions.items():
            stream = self._stream_of(recording, label)
            if stream is None or stream.place.acquisition == acquisition:
                self.anew.pop(label, None)
            elif now - self.anew.setdefault(label, now) > 1.0:
                raise Broken(f"{label} began anew, and the run goes on")

    def _no_shunt_is_on_in_a_run(self) -> None:
        process = self.stage.process
        if process and process.recorder.context.phase is Phase.RECORDING:
            on = [d.label for d in self.stage.devices.values() if d.shunt]
            if on and self.stage.clock.now - self.since_recording(process) > 0.5:
                raise Broken(f"the shunt of {on[0]} is on while a run is recorded")

    def _no_shunt_is_left_on(self) -> None:
        process, now = self.stage.process, self.stage.clock.now
        idle = process and process.recorder.context.phase is Phase.IDLE and not process.hung
        on = [d for d in self.stage.devices.values() if d.shunt and now - d.troubled_at > 2.0]
        self.shunt_since = (self.shunt_since or now) if idle and on else None
        if self.shunt_since and now - self.shunt_since > 1.0:
            raise Broken("a shunt was left on")

    def since_recording(self, process: "Process") -> float:
        recording = process.recorder.run.recording
        return (recording.start_ns - START_NS) * 1e-9 if recording else self.stage.clock.now

    def _a_full_queue_ends_the_run(self) -> None:
        process = self.stage.process
        if process is None:
            return
        full = process.writer.full and process.recorder.run.recording and not process.hung
        self.full_since = (self.full_since or self.stage.clock.now) if full else None
        if self.full_since and self.stage.clock.now - self.full_since > 0.8:
            raise Broken("the writer is full, and it is recorded on")

    def _memory_is_bounded(self) -> None:
        process = self.stage.process
        if process is None:
            return
        writer = process.writer
        if writer._bytes > 3 * QUEUE_BYTES:
            raise Broken(f"the writer holds {writer._bytes} bytes")
        if self.stage.server.stalled_flush or not self.stage.server.takes_writes:
            self.unflushed_at = self.stage.clock.now
        if len(writer._written.rows) > 80 and self.stage.clock.now - self.unflushed_at > 3.0:
            raise Broken("written rows are kept for ever")
        if len(process.inbox) > 2000 and not process.hung:
            raise Broken("events pile up")
        for device in process.recorder.context.devices.values():
            if device.line.held_bytes > MAX_HELD:
                raise Broken("too many early blocks are held")
            if len(device.line.ring._blocks) > 12 / BLOCK_S:
                raise Broken("the ring holds more than its seconds")
        if len(process.listener._to_write.notes) > len(self.stage.devices) + 1:
            raise Broken("notes pile up")

    # At the end, everything mended

    def check_end(self) -> None:
        self._everything_has_ended()
        for run_id, run in self.stage.server.runs.items():
            for (label, rule), stream_id in run.streams.items():
                if rule == MAIN:
                    self._check_stream(run_id, run, label, self.stage.server.streams[stream_id])
            self._check_why(run_id, run)
            self._check_kept(run_id, run)
            order = self.stage.server.orders.get(run.order_key)
            if order and order.state == OrderState.REFUSED:
                raise Broken("an order that was given up began a run")

    def _everything_has_ended(self) -> None:
        stage, process = self.stage, self.stage.process
        assert process is not None
        if process.recorder.context.phase is not Phase.IDLE:
            raise Broken(f"the recorder is still {process.recorder.context.phase}")
        if not process.writer.idle:
            raise Broken("the writer still has work")
        if stage.frame.is_pulling:
            raise Broken("the actuator still pulls")
        if any(device.shunt for device in stage.devices.values()):
            raise Broken("a shunt is still on")
        for order in stage.server.orders.values():
            is_past = stage.clock.now - order.given_at > 10
            if is_past and order.state in (OrderState.WAITING, OrderState.CLAIMED):
                raise Broken(f"{order.kind} was never answered")
        for row in stage.server.stops.values():
            if not row.confirmed:
                raise Broken("a stop was never confirmed")

    def _check_stream(self, run_id: int, run: RunRow, label: str, stream: StreamRow) -> None:
        if run.is_dry:
            if stream.blocks:
                raise Broken("a dry run has kept something")
            return
        if run_id in self.stage.server.refused_runs | self.stage.server.damaged_runs:
            return
        found = sequences_of(stream)
        if sorted(set(found)) != found:
            raise Broken(f"blocks of {label} are stored twice or out of order")
        self._check_what_is_missing(run_id, run, label, stream, found)
        self._check_times(label, stream, found)
        self._check_envelope(label, stream)
        self._check_seal(label, stream)

    def _check_what_is_missing(
        self, run_id: int, run: RunRow, label: str, stream: StreamRow, found: list[int]
    ) -> None:
        """What is not stored shows, and was given up for a reason; what was received is stored."""
        if not found:
            return
        first = stream.place.sequence
        device = self.stage.devices[label]
        made_at = {s: at for (a, s), at in device.made_at.items() if a == stream.place.acquisition}
        begun = (run.start_ns - START_NS) * 1e-9
        waits = not isinstance(run.setup.trigger, AtOnce)
        paused = {s for s, at in made_at.items() if self._is_in_a_pause(run_id, at)}
        paused |= {s for s, at in made_at.items() if waits and at < begun + 0.05}
        absent = set(range(first, found[-1] + 1)) - set(found) - paused
        shown = sum(s[7] for s in stream.segments if s[2] != Cause.PAUSE.value)
        if len(absent) != shown:
            raise Broken(f"{len(absent)} blocks of {label} are missing, {shown} are shown so")
        if found[0] < first:
            raise Broken(f"{label} has samples of before the run")
        for begin, end in stored_pauses(run):
            if any(begin + 0.5 < made_at.get(s, begin) < end - 0.5 for s in found):
                raise Broken(f"{label} has samples of a pause")
        received = {s for s in self.in_run[run_id, label] if s >= first}
        for sequence in sorted(received - set(found) - paused):
            raise Broken(f"block {sequence} of {label} was received and is not stored")
        for sequence in absent:
            made = device.made_at.get((stream.place.acquisition, sequence), 0.0)
            last = device.made_at.get((stream.place.acquisition, found[-1]), 0.0)
            if device.troubled_at < made - 0.5 and last - made > GIVEN_UP_S + 2:
                raise Broken(f"block {sequence} of {label} was given up without a reason")

    def _is_in_a_pause(self, run_id: int, made: float) -> bool:
        """Whether a block was made in a pause of its run, or near an end of one."""
        ends = self.pauses[run_id].items()
        return any(begin - 0.3 <= made <= end + 0.3 for begin, end in ends)

    def _check_times(self, label: str, stream: StreamRow, found: list[int]) -> None:
        """Samples lie where they were taken, and segments follow each other."""
        device, starts = self.stage.devices[label], [s[1] for s in stream.segments]
        if not found:
            return
        for before, after in zip(stream.segments, stream.segments[1:], strict=False):
            end = before[4] + (after[1] - before[1]) * 1e9 / before[5]
            if after[4] < end - 2000:
                raise Broken(f"segments of {label} overlap")
        if device.was_late and device.was_put:
            return  # nobody can know when a block was taken that comes after its clock was put
        for index, sequence in enumerate(found):
            made = device.made_at.get((stream.place.acquisition, sequence))
            segment = stream.segments[np.searchsorted(starts, index * PER_BLOCK, "right") - 1]
            at_ns = segment[4] + (index * PER_BLOCK - segment[1]) * 1e9 / segment[5]
            if made is not None:
                off = (at_ns - START_NS) * 1e-9 - (made - BLOCK_S)
                if abs(off) > NEAR_S:
                    raise Broken(f"block {sequence} of {label} lies {off:.2f} s beside its time")

    def _check_kept(self, run_id: int, run: RunRow) -> None:
        """What the other keep rules have kept is what they make of the main streams."""
        if run_id in self.stage.server.refused_runs | self.stage.server.damaged_runs:
            return
        for label in ("A1", "A2"):
            of = {
                rule: self.stage.server.streams[key]
                for (of, rule), key in run.streams.items()
                if of == label
            }
            if not of:
                continue
            for rule, stream in of.items():
                if rule != MAIN:
                    self._check_envelope(f"{label}, {rule}", stream)
                    self._check_seal(f"{label}, {rule}", stream)
            deaths = self._deaths(of[MAIN])
            twins = KeptTwins(of[MAIN], min(deaths, default=math.inf) < CATCHES_UP_S, bool(deaths))
            stepped = any(s[2] == Cause.STEP.value for s in of[MAIN].segments)
            if not (stepped and deaths):  # else a new recorder may see the step elsewhere
                twins.check_fewer(label, of["everything 2"])
            twins.check_bursts(label, of["bursts"])
        self._check_turns(run)

    def _deaths(self, main: StreamRow) -> list[float]:
        """How long before the last sample of a run a recorder died."""
        if not main.segments:
            return [0.0]
        first = (main.segments[0][4] - START_NS) * 1e-9
        _, at, *_, bench_ns, rate_hz, _, _ = main.segments[-1]
        last = (bench_ns - START_NS) * 1e-9 + (main.samples - at) / rate_hz
        return [last - at for at in self.stage.ended_at if first <= at]

    def _check_turns(self, run: RunRow) -> None:
        streams = self.stage.server.streams
        names = [(label, "turning_points") for label in ("A1", "A2")]
        if not all(name in run.streams for name in names):
            return
        lead, other = (data_of(streams[run.streams[name]]) for name in names)
        if lead.shape[1] != other.shape[1] or (lead[-1] != other[-1]).any():
            raise Broken("turning points of two devices are not at the same instants")
        main = streams[run.streams["A1", MAIN]]
        deaths = self._deaths(main)
        if deaths and any(s[2] == Cause.STEP.value for s in main.segments):
            return
        expected = KeptTwins(main, False).turns()
        if min(deaths, default=math.inf) < CATCHES_UP_S:
            expected = expected[:, : lead.shape[1]]
        if lead.shape[1] != expected.shape[1] or (lead[:-1] != expected).any():
            raise Broken(f"{lead.shape[1]} turning points are kept, and {expected.shape[1]} are")

    def _check_envelope(self, label: str, stream: StreamRow) -> None:
        data = data_of(stream)
        if stream.seal is None:
            raise Broken(f"the stream of {label} has no seal")
        for level in (1, 2, 3):
            size = 16**level
            pairs = stored_pairs(stream, level, 0)
            groups = -(-data.shape[1] // size)
            if pairs.low.shape != (planes_of(stream), groups):
                raise Broken(f"level {level} of the envelope of {label} does not fit its samples")
            for group in range(groups):
                part = data[:, size * group : size * (group + 1)]
                if np.isnan(part).any():
                    continue  # rows at which another device has no sample
                low, high = (end.astype("f4") for end in (part.min(axis=1), part.max(axis=1)))
                if (low != pairs.low[:, group]).any() or (high != pairs.high[:, group]).any():
                    raise Broken(f"level {level} of the envelope of {label} is wrong")

    def _check_seal(self, label: str, stream: StreamRow) -> None:
        chain = b""
        for row in stream.blocks:
            _, chain = seal(chain, row[1], row[7])
        if chain != stream.seal or stream.closed_samples != stream.samples:
            raise Broken(f"the seal of {label} is not of all its rows")

    def _check_why(self, run_id: int, run: RunRow) -> None:
        """A run that ended by its samples has them; and none recorded on after its end."""
        if (
            run.is_dry
            or run_id in self.stage.server.refused_runs
            or ("A1", MAIN) not in run.streams
        ):
            return
        data = data_of(self.stage.server.streams[run.streams["A1", MAIN]])[0].astype(float)
        newtons = data / OUTPUT * CAPACITY_N
        met = first_met(run.setup, newtons)
        if run.why.startswith(("The force fell", "2 cycles")) and met is None:
            raise Broken(f"it ended because “{run.why}”, and its samples do not say so")
        moved = any(name == run.order_key for _, _, name in self.stage.motions)
        since = (run.start_ns - START_NS) * 1e-9 + (met or 0) / RATE_HZ
        # A recorder that was killed reads what the device kept meanwhile, and then ends the run.
        troubles = self.stage.devices["A1"].troubles + self.stage.ended_at
        was_seen = not any(since - 1 <= at <= since + 3 for at in troubles)
        if met is not None and moved and was_seen and len(newtons) - met > 3 * RATE_HZ:
            raise Broken("what was to end it is in its samples, and it was recorded on")


class KeptTwins:
    """What keep rules make of a main stream, stretch by stretch.

    gone_on : by a new recorder, maybe one that took the bench while the first ended the run
    may_lack : the run was ended before a new recorder had all that its devices still had
    """

    def __init__(self, main: StreamRow, may_lack: bool, gone_on: bool = False) -> None:
        self.may_lack, self.gone_on = may_lack, gone_on
        self.data = data_of(main).astype(float)
        new = [s[1] for s in main.segments if s[2] in BREAKS]
        self.parts = np.split(self.data, [at for at in new if at], axis=1)

    def check_fewer(self, label: str, stream: StreamRow) -> None:
        of = Decimator(4, self.data.shape[0])
        expected = [part for one in self.parts for part in (of.push(one), of.finish())]
        whole = np.concatenate(expected, axis=1).astype(np.float32)
        found = data_of(stream)
        if self.may_lack:  # and what the filter reached in the end stood
            count = max(0, found.shape[1] - REACH)
            found, whole = found[:, :count], whole[:, :count]
        if found.shape != whole.shape:
            raise Broken(f"{found.shape[1]} of {whole.shape[1]} fewer samples of {label} are kept")
        off = ~np.isclose(found, whole, rtol=1e-5, atol=1e-9).all(axis=0)
        if off.sum() > (REACH if self.gone_on else 0):
            raise Broken(f"{off.sum()} of {len(off)} fewer samples of {label} are others")

    def check_bursts(self, label: str, stream: StreamRow) -> None:
        """Each once and in order; the last plane numbers the samples of the device."""
        found = data_of(stream).astype(float)
        if (np.diff(found[-1]) <= 0).any() or not np.isin(found[-1], self.data[-1]).all():
            raise Broken(f"bursts of {label} are kept twice, or of nothing")

    def turns(self) -> Any:
        scale = OUTPUT / CAPACITY_N
        of, places = CycleTurns(GATE_N), []
        for part in self.parts:
            of.restart()
            places += of.push(part[0] / scale).kept.tolist()
        return self.data[:, places]


def first_met(setup: Any, newtons: Any) -> int | None:
    """The sample in which a run's conditions are first met; None if never."""
    found = []
    for stop in setup.stops:
        if type(stop).__name__ == "ForceDrop":
            found.append(ForceDropWatch(stop.arm_n, stop.share).push(newtons))
        if type(stop).__name__ == "CyclesDone":
            found.append(_cycles_met(setup, stop, newtons))
    return min((f for f in found if f is not None), default=None)


def _cycles_met(setup: Any, stop: Any, newtons: Any) -> int | None:
    meter = CycleMeter(setup.motion.lowest_n, setup.motion.highest_n)
    for start in range(0, len(newtons), PER_BLOCK):
        if meter.push(newtons[start : start + PER_BLOCK]) >= stop.cycles:
            return start
    return None


def sequences_of(stream: StreamRow) -> list[int]:
    """Which of the device's blocks are stored, from what their samples say."""
    places = data_of(stream)[-1] * (RAIL / np.float64(np.float32(8e-3)))
    numbers = np.rint(places).astype(int)
    if len(numbers) % PER_BLOCK:
        raise Broken("a block is stored in part")
    blocks = numbers.reshape(-1, PER_BLOCK)
    if (np.diff(blocks, axis=1) != 1).any():
        raise Broken("samples of a block are mixed up")
    return list(blocks[:, 0] // PER_BLOCK)
