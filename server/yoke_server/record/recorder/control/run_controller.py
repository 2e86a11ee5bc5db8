"""The run that is being recorded, from its first block until its end is in the database."""

import json
import logging
from collections.abc import Mapping
from dataclasses import asdict
from uuid import uuid4

from yoke_server.bench.orders import OrderSpec
from yoke_server.bench.stops import StopRequested
from yoke_server.kinds.guards.base import GuardAction
from yoke_server.kinds.keep_rules.base import main_of
from yoke_server.kinds.orders.runs import EndGently, GoOn, HoldHere, MarkRun, PauseRun, SkipLeg
from yoke_server.live.protocol import Phase
from yoke_server.record.models import MarkerKind, RunState
from yoke_server.record.readings.live import live_nodes
from yoke_server.record.recorder.control.bench_context import BenchContext
from yoke_server.record.recorder.control.bench_device import conditioning
from yoke_server.record.recorder.control.programme import RESTARTED, ProgrammeRunner
from yoke_server.record.recorder.control.recording import Recording
from yoke_server.record.recorder.control.track import Track
from yoke_server.record.recorder.model import events
from yoke_server.record.recorder.model.phases import Refused
from yoke_server.record.recorder.model.progress import (
    FIRED,
    LEGS,
    PAUSES,
    PROGRAMME,
    KeptStream,
    LinePlace,
    Place,
    ProgrammeState,
    ResumedStream,
    StreamName,
)
from yoke_server.record.recorder.storage.work import Close, Mark
from yoke_server.record.recorder.stream.computed_writer import ComputedWriter
from yoke_server.record.recorder.stream.guards import Trip
from yoke_server.record.recorder.stream.keep.keeping import Keeping, columns_of
from yoke_server.record.recorder.stream.ring import Ring
from yoke_server.record.recorder.stream.writer import StreamWriter
from yoke_server.record.runs import sample_bytes_of
from yoke_server.setups.document import FrozenSetup

log = logging.getLogger(__name__)

PAUSED_WORDS = "Paused"
DONE_ON_TRIP = {
    GuardAction.WARN: "warned",
    GuardAction.STOP: "the run ends",
    GuardAction.HOLD: "held",
    GuardAction.UNLOAD: "goes to no load",
}
PATIENCE = 60.0  # s that all devices may be away before a run is ended
UNSEEN = 1.0  # s that the newest sample of a watched device may be old while something moves


class RunController:
    """At most one run at a time. Every end of a run stops all motion first."""

    def __init__(self, context: BenchContext) -> None:
        self._context = context
        self.recording: Recording | None = None
        self._closing: Close | None = None

    # StreamOrigin

    def record(
        self, run_id: int, name: str, setup: FrozenSetup, start_ns: int, is_dry: bool = False
    ) -> Recording:
        """A run is in the database: its samples are kept from now on."""
        context = self._context
        self.recording = Recording(
            run_id,
            name,
            setup,
            start_ns,
            context.clock.bench_ns,
            self._stop_motion,
            self._on_trip,
            self._on_fired,
            context.parts.writer.put,
            context.clock.utc,
            is_dry,
        )
        context.enter(Phase.RECORDING)
        return self.recording

    def keep(self, recording: Recording, streams: Mapping[StreamName, KeptStream]) -> Keeping:
        """What the keep rules beside the main streams keep goes into these."""
        recording.keeping = Keeping(
            recording.run_id,
            recording.setup,
            streams,
            self._context.clock.monotonic,
            lambda: recording.start_ns,
            recording.is_left_out,
        )
        return recording.keeping

    def add_track(
        self,
        label: str,
        beginning: Place,
        stream_id: int | None,
        resumed: ResumedStream | None = None,
        computed: Mapping[str, int] | None = None,
    ) -> None:
        """Keep a device's samples from a place on.

        stream_id : of its main stream; None where no rule keeps each sample
        computed : streams by channel key, of what is computed from the first sample on
        """
        recording, context = self.recording, self._context
        assert recording is not None and recording.keeping is not None
        device, main = context.devices[label], main_of(recording.setup.keep_rules)
        writer = None
        if stream_id is not None:
            writer = self._stream_writer(recording, label, stream_id, beginning, resumed)
        track = Track(
            label,
            device.line,
            writer,
            recording.look,
            recording.reach,
            lambda: recording.waiting is not None,
            Ring(context.parts.budget, recording.waiting.pre_s if recording.waiting else 0.0),
            recording.fail,
            recording.is_left_out,
            recording.keeping,
            self._computed_writer(recording, label, computed or {}),
            main[1].legs if main else (),
            recording.keeping.next_of(label),
        )
        recording.tracks[label] = track
        device.heard_at = context.now
        device.port.set_streaming(True)
        device.line.subscribe(track, beginning)

    def _stream_writer(
        self,
        recording: Recording,
        label: str,
        stream_id: int,
        beginning: Place,
        resumed: ResumedStream | None,
    ) -> StreamWriter:
        channels = recording.setup.of_device(label)
        return StreamWriter(
            recording.run_id,
            stream_id,
            columns_of(channels),
            beginning,
            self._context.parts.writer.put,
            self._context.clock.monotonic,
            resumed,
            resumed.sample_bytes if resumed else sample_bytes_of(channels),
        )

    def _computed_writer(
        self, recording: Recording, label: str, streams: Mapping[str, int]
    ) -> ComputedWriter | None:
        setup, context = recording.setup, self._context
        nodes = live_nodes(setup, list(streams)).get(label) if streams else None
        if not nodes:
            return None
        return ComputedWriter(
            recording.run_id,
            streams,
            nodes,
            setup.of_device(label),
            setup.rates_hz[label],
            context.parts.writer.put,
            context.clock.monotonic,
            lambda: context.parts.writer.keeps_up,
        )

    def on_open_run(self, event: events.OpenRunLoaded) -> None:
        """Resume a run that an earlier recorder left; its motion is stopped and stays stopped."""
        log.warning("Going on with %s", event.run_name)
        recording = self.record(
            event.run_id, event.run_name, event.setup, event.start_ns, event.is_dry
        )
        recording.resume(event.progress)
        self._mark(MarkerKind.RESTART, RESTARTED)
        if event.progress.programme:
            recording.programme = self._programme(recording, event.progress.programme)
        places = self._resume_keeping(recording, event)
        for label in sorted({*event.streams, *places}):
            device, stream = self._context.devices.get(label), event.streams.get(label)
            if device is None:
                continue
            rate_hz = event.setup.rates_hz[label]
            found = [stream.line_place(rate_hz)] if stream else []
            found += [places[label]] if label in places else []
            first = min(found, key=lambda line: line.place.sequence)
            device.line.go_on_from(first, rate_hz)
            self.add_track(label, first.place, stream.stream_id if stream else None, stream)
            device.in_force = conditioning(event.setup, label)

    def _resume_keeping(
        self, recording: Recording, event: events.OpenRunLoaded
    ) -> dict[str, LinePlace]:
        """From where each device is to send again what the keep rules lack."""
        keeping, stored = self.keep(recording, event.kept), event.progress.keeping
        origins = {label: kept.beginning for (label, _), kept in event.kept.items()}
        begun = {
            label: LinePlace(origin.place, 0, origin.segment(event.setup.rates_hz[label]))
            for label, origin in origins.items()
            if origin
        }
        return begun | (keeping.resume(stored) if stored else {})

    # While it is recorded

    def tick(self) -> None:
        """Look whether it must end, or is done."""
        if (recording := self.recording) is None:
            return
        recording.tick()
        if why := self._broken(recording):
            self.end(RunState.INTERRUPTED, why)
        elif recording.is_over:
            self.end(RunState.KEPT, recording.triggered)

    def _broken(self, recording: Recording) -> str:
        """Why it cannot go on; empty while it can."""
        now, devices = self._context.now, self._context.devices
        if recording.fault:
            return recording.fault
        if self._context.parts.writer.full:
            return "The database took no samples until the memory was full"
        if now - max((devices[k].heard_at for k in recording.tracks), default=now) > PATIENCE:
            return "No device sent samples for a minute"
        return ""

    def on_actuator_state(self, event: events.ActuatorState) -> None:
        if self.recording:
            self.recording.look_at_actuator(event.state)

    def begin_motion(self, order: events.OrderIn[OrderSpec]) -> None:
        """Raises Refused unless it may: the check of a second ago is not enough."""
        recording = self.recording
        assert recording is not None
        if recording.setup.motion.moves:
            self._context.actuators.require_ready(recording.setup.motion)
        self._require_inside(recording)
        recording.programme = self._programme(recording)
        recording.programme.start(order)

    def _require_inside(self, recording: Recording) -> None:
        """Raise Refused while a guard would have everything stand."""
        if why := recording.guards.forbids:
            raise Refused(f"A guard has tripped: {why}.", "See to it, then try again.")

    def _programme(
        self, recording: Recording, state: ProgrammeState | None = None
    ) -> ProgrammeRunner:
        def keep(reached: ProgrammeState, words: str) -> None:
            recording.legs = recording.legs.enter(reached.leg, self._context.clock.bench_ns())
            progress: dict[str, object] = {PROGRAMME: asdict(reached)}
            progress[LEGS] = recording.legs.changes
            self._mark(MarkerKind.PROGRAMME, words, progress)

        def end_step(words: str, averaged_s: float) -> None:
            self._mark(MarkerKind.STEP, words, averaged_s=averaged_s)

        context = self._context
        return ProgrammeRunner(
            recording.setup,
            context.actuators,
            context.clock.bench_ns,
            lambda: recording.cycles,
            self._why_unseen,
            keep,
            end_step,
            state,
        )

    def on_motion(self, motion_id: str, problem: str) -> None:
        """The actuator took, or refused, a motion; an earlier run's answer may come late."""
        programme = self.recording.programme if self.recording else None
        if not problem or programme is None or programme.motion_id != motion_id:
            return
        if programme.state.motions == 1:
            self.end(RunState.INTERRUPTED, f"The actuator did not move: {problem}")
        else:
            programme.refuse(problem)

    # What people have it do meanwhile, and guards

    def mark(self, order: events.OrderIn[MarkRun]) -> None:
        """A person names this instant."""
        self._of(order.order.run)
        self._mark(MarkerKind.PERSON, order.order.text, actor=order.order.operator, key=order.key)
        self._context.done(order.key)

    def pause(self, order: events.OrderIn[PauseRun]) -> None:
        """Nothing moves, and no samples are kept until a person has it go on."""
        recording = self._of(order.order.run)
        if recording.pauses.why:
            raise Refused(f"{recording.name} is paused already.")
        if recording.waiting:
            raise Refused(f"{recording.name} waits for its trigger: nothing is kept yet.")
        self._stand_still(PAUSED_WORDS)
        recording.pauses = recording.pauses.begin(PAUSED_WORDS, self._context.clock.bench_ns())
        self._mark_pause(PAUSED_WORDS, order.order.operator)
        self._context.done(order.key)

    def go_on(self, order: events.OrderIn[GoOn]) -> None:
        """End a pause, resume what is held, or say that what a leg waits for is done."""
        recording = self._of(order.order.run)
        programme = recording.programme
        waits = programme is not None and programme.waits
        if not waits and not recording.pauses.why:
            raise Refused("Nothing waits for a person.")
        if programme and waits:
            self._require_inside(recording)
            programme.go_on(order)
        if recording.pauses.why:
            recording.pauses = recording.pauses.end(self._context.clock.bench_ns())
        self._mark_pause("Goes on", order.order.operator)
        self._context.done(order.key)

    def hold(self, order: events.OrderIn[HoldHere]) -> None:
        """What moves stands, and samples are kept."""
        self._programme_of(order.order.run)
        self._stand_still("Held by a person")
        self._context.done(order.key)

    def skip(self, order: events.OrderIn[SkipLeg]) -> None:
        programme = self._programme_of(order.order.run)
        self._require_inside(self._of(order.order.run))
        programme.skip(order)
        self._context.done(order.key)

    def unload(self, order: events.OrderIn[EndGently]) -> None:
        self._programme_of(order.order.run).unload(order)
        self._context.done(order.key)

    def _of(self, run_id: int) -> Recording:
        if self.recording is None or self.recording.run_id != run_id:
            raise Refused("That run is over.")
        return self.recording

    def _programme_of(self, run_id: int) -> ProgrammeRunner:
        recording = self._of(run_id)
        if recording.pauses.why:
            raise Refused(f"{recording.name} is paused.", "Have it go on first.")
        if recording.programme is None:
            raise Refused("Nothing moves in this run.")
        return recording.programme

    def _stand_still(self, why: str) -> None:
        self._context.actuators.stop_all()
        if self.recording and self.recording.programme:
            self.recording.programme.hold(why)

    def _on_trip(self, trip: Trip) -> None:
        """A guard has tripped; what it was given to do is done before anything is stored."""
        recording = self.recording
        assert recording is not None
        if trip.action is GuardAction.UNLOAD and recording.programme:
            recording.programme.relieve(trip.words)
        elif trip.action is not GuardAction.WARN:
            self._stand_still(trip.words)
        if trip.action is GuardAction.STOP:
            recording.trigger(trip.words)
        self._mark(MarkerKind.GUARD, f"{trip.words}: {DONE_ON_TRIP[trip.action]}")
        self._context.state_due = 0.0

    def _on_fired(self, words: str) -> None:
        """The trigger has come; with it, it is known when the run begins."""
        assert self.recording is not None
        began, said = self.recording.start_ns, f"Trigger: {words}"
        self._mark(MarkerKind.TRIGGER, said, {FIRED: True}, start_ns=began)
        self._context.state_due = 0.0

    def _mark_pause(self, words: str, actor: int | None) -> None:
        assert self.recording is not None
        self._mark(MarkerKind.PAUSE, words, {PAUSES: asdict(self.recording.pauses)}, actor)

    def _mark(
        self,
        kind: MarkerKind,
        text: str,
        progress: dict[str, object] | None = None,
        actor: int | None = None,
        key: str = "",
        start_ns: int | None = None,
        averaged_s: float = 0.0,
    ) -> None:
        recording = self.recording
        assert recording is not None
        reached = json.dumps(progress) if progress else ""
        at_ns = self._context.clock.bench_ns()
        from_ns = at_ns - round(averaged_s * 1e9) if averaged_s else None
        about = (recording.run_id, key or str(uuid4()), at_ns, kind, text, actor, reached)
        mark = Mark(*about, start_ns, from_ns)
        self._context.parts.writer.put(mark)

    def _why_unseen(self) -> str:
        """Why nobody sees what a motion does; empty while somebody does."""
        recording, context = self.recording, self._context
        if recording is None:
            return "no run is recorded"
        if recording.triggered or recording.fault:
            return recording.fault or recording.triggered
        for label in sorted(recording.watched_devices):
            device = context.devices.get(label)
            if device is None or device.line.age_s > UNSEEN * context.clock.speed:
                return f"the newest samples of {label} are more than {UNSEEN:g} s old"
        return ""

    # Its end

    def _stop_motion(self, why: str) -> None:
        """What was to end the run has happened: nothing moves any more, a tail is kept."""
        self._context.actuators.stop_all()
        log.info("%s", why)

    def end(self, state: RunState, why: str, stop: StopRequested | None = None) -> None:
        """Stop what moves, then give out everything received, then close.

        stop : the one that ends it
        """
        context, recording = self._context, self.recording
        context.actuators.stop_all()
        if recording is None:
            return
        if recording.waiting and state is RunState.KEPT:
            state, why = RunState.INTERRUPTED, f"{why}, before its trigger came"
        self.recording = None
        closed = recording.finish()
        computed = recording.finish_computed()
        self._closing = Close(recording.run_id, state, why, closed, stop, computed)
        context.enter(Phase.CLOSING)
        context.parts.writer.put(self._closing)

    def on_closed(self, event: events.RunClosed) -> None:
        """Its end is in the database; where that takes it never, at least that it has ended."""
        work = self._closing
        if work is None or work.run_id != event.run_id:
            return
        if event.problem and work.streams:
            why = f"The database refuses its end: {event.problem}"
            self._closing = Close(work.run_id, RunState.INTERRUPTED, why, [], work.stop)
            self._context.parts.writer.put(self._closing)
            return
        self._closing = None
        self._context.be_idle()

    def on_write_refused(self, event: events.WriteRefused) -> None:
        if self.recording and self.recording.run_id == event.run_id:
            self.end(RunState.INTERRUPTED, f"The database refuses its samples: {event.why}")
